# frozen_string_literal: true

module Evrel
  module Shelf
    # Looks through a shelf and finds the images on it, by content. What has
    # not changed since the last time is passed over.
    class Look
      # document is nil where the file cannot be looked at; problem says why, or
      # what is wrong with an image that was found. members are paths.
      Found = Struct.new(:path, :format, :document, :problem, :members, keyword_init: true)

      # What was known of a path: the stamp of its files, and as an image its members.
      Known = Struct.new(:stamp, :members)

      # stamps: path → stamp, to be known the next time. absorbed: paths of
      # images that turned out to be what others build on. files: how many there are.
      Summary = Struct.new(:stamps, :absorbed, :files, keyword_init: true)

      # Folders of images that are being taken (Image::Capture), and of what is being salvaged (Salvage::Store).
      UNFINISHED = /\.(part|salvage)-\h+\z/
      # Folders of images that come from another shelf (Image::Transfer), with all that lies below.
      ARRIVING = %r{\.arriving-\h+(/|\z)}

      EVERY = 25 # files between two calls that only tell how far it is

      # @param shelf [Folder, Web]
      # @param known [Hash{String=>Known}]
      # @param kept [Image::Kept, nil]
      def initialize(shelf, known: {}, kept: nil)
        @shelf = shelf
        @known = known
        @kept = kept
      end

      # @yieldparam found [Found, nil] an image that is new or has changed, or what cannot be looked at
      # @yieldparam done [Integer] files so far
      # @yieldparam total [Integer]; a block that returns :stop ends it
      # @return [Summary]
      # @raise [Unreadable] where the shelf itself cannot be reached
      # @raise [Stopped]
      def run(&)
        @done = 0
        @stamps = {}
        @members = {}
        entries = @shelf.each_file.to_a
        @total = entries.size
        broken, files = entries.partition(&:problem)
        broken.each { |entry| tell(Found.new(path: entry.path, problem: entry.problem, members: []), &) }
        files.group_by(&:folder).each { |folder, inside| folder(folder, inside, &) }
        Summary.new(stamps: @stamps, absorbed: absorbed, files: @total)
      end

      private

      def folder(folder, entries, &)
        return @done += entries.size if unfinished?(folder, entries)
        return candidate(folder, entries, &) if native?(folder, entries)

        taken = {}
        entries.each do |entry|
          next if taken[entry.path]

          pieces = pieces(entry, entries)
          pieces.each { |piece| taken[piece.path] = true }
          candidate(pieces.first.path, pieces, &)
        end
      end

      def unfinished?(folder, entries)
        return true if ARRIVING.match?(folder)

        UNFINISHED.match?(folder) && entries.map { |entry| entry.name.delete_suffix(Image::ImageFiles::LOCKED) }
                                            .intersect?([Image::Native::DISK, Image::Native::DIGESTS, Salvage::Store::DISK])
      end

      def pieces(entry, entries)
        (Image::Pieces::NUMBERED.match?(entry.path) && Image::Pieces.of(entry.path, entries, @shelf)) || [entry]
      end

      # Our own format has names of its own; whether it is that, the manifest tells.
      def native?(folder, entries)
        names = entries.map(&:name)
        return false unless names.include?(Image::Native::MANIFEST)

        names.intersect?([Image::Native::DISK, Image::Native::DIGESTS].flat_map { |name| [name, "#{name}#{Image::ImageFiles::LOCKED}"] }) ||
          @shelf.read("#{folder}/#{Image::Native::MANIFEST}", 2 * KIB).include?(Image::Manifest::FORMAT)
      rescue Error
        false
      end

      def candidate(path, entries, &)
        @done += entries.size
        stamp = entries.map(&:stamp).join(' ')
        known = @known[path]
        if known&.stamp == stamp
          @members[path] = known.members
          @stamps[path] = stamp
          return tell(nil, &)
        end
        found = look(path)
        # What could not be read is looked at again the next time.
        @stamps[path] = stamp unless found&.problem && found.document.nil?
        @members[path] = found&.members
        tell(found, &)
      end

      def look(path)
        opener = Image::Opener.new(@shelf, path, kept: @kept)
        document = opener.recognise or return
        Found.new(path:, format: document.document['format'], document:, members: document.document['members'] || [],
                  problem: opener.problem)
      rescue Damaged, Unreadable, Unsupported, Refused => e
        Found.new(path:, problem: e.message, members: [])
      end

      def tell(found)
        return unless found || (@done % EVERY).zero?
        raise Stopped, 'stopped' if yield(found, @done, @total) == :stop
      end

      # The lower files of a chain belong to the image on top of it.
      def absorbed
        below = @members.flat_map { |path, members| members.to_a - [path] }.uniq
        below.select { |path| @members[path] }
      end
    end
  end
end
