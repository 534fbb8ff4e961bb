# frozen_string_literal: true

module Evrel
  module Volume
    # Path walking, for the kinds that have directories. A kind includes this
    # and implements root_entry, children(entry), file_pieces(entry) { |bytes| }
    # and extents_of(entry) { |offset, length| }; where names can be had without
    # the rest, also named_children, named_child and child_named.
    module Tree
      # A chain of links longer than this is a loop (as in POSIX's ELOOP).
      LINKS = 8

      def browsable? = true

      # @param path [String]
      # @return [Array<Entry>] without "." and ".."
      # @raise [NotFound] no such directory
      def entries(path = '/')
        found = entry(path)
        raise NotFound.new("#{path} is no directory", where: path) unless found.directory?

        children(found)
      end

      # A piece of a directory, in the order in which people look: directories
      # first, then by name. Reads no more of a large one than it must.
      # @param from [Integer] how many to leave out
      # @param count [Integer] how many to give at most
      # @return [Array<(Array<Entry>, Integer)>] the entries, and how many there are in all
      # @raise [NotFound] no such directory
      def page(path = '/', from: 0, count: 500)
        found = entry(path)
        raise NotFound.new("#{path} is no directory", where: path) unless found.directory?

        named = named_children(found).sort_by { |name, directory, _| "#{directory ? 0 : 1}#{name.downcase}\0#{name}" }
        [named[from, count].to_a.map { |name, _, known| named_child(found, name, known) }, named.size]
      end

      # Yields where a file's contents and what describes it lie.
      # @yieldparam offset [Integer] bytes on the volume
      # @yieldparam length [Integer] bytes
      # @raise [Damaged]
      def file_extents(entry, &)
        return enum_for(:file_extents, entry) unless block_given?

        extents_of(entry, &)
      end

      # @return [Array<(Integer, Integer)>] where on the volume a file's contents lie; `file_extents` tells first where the
      #   record lies that describes it
      def content_extents(entry) = file_extents(entry).drop(1)

      # @param path [String]
      # @return [Entry] links are followed
      # @raise [NotFound]
      def entry(path) = walk(path.split('/').reject { |name| ['', '.'].include?(name) }, path, 0)

      # @param path [String]
      # @return [Array<(String, String)>] path and target of each symbolic link on the way there, in their order, as far
      #   as the way leads
      def links(path)
        met = []
        walk(path.split('/').reject { |name| ['', '.'].include?(name) }, path, 0, met)
        met
      rescue NotFound
        met
      end

      # @param path [String]
      # @return [Boolean] whether there is something of this name, if only a link that leads nowhere
      def named?(path)
        entries(::File.dirname(path)).any? { |one| one.name == ::File.basename(path) }
      rescue NotFound
        false
      end

      # @return [Boolean]
      def exist?(path)
        entry(path) && true
      rescue NotFound
        false
      end

      # Yields the contents in pieces, in order.
      # @raise [NotFound] no such file
      def read_file(path, &)
        found = entry(path)
        raise NotFound.new("#{path} is no file", where: path) unless found.file? || found.note

        read_entry(found, &)
      end

      # The same for an entry that is known already.
      # @param entry [Entry] a file
      # @raise [Unsupported] where its contents cannot be read here
      def read_entry(entry, &)
        raise Unsupported.new("#{entry.path} is #{entry.note}", where: entry.path) if entry.note

        file_pieces(entry, &)
      end

      # @param limit [Integer] bytes; the rest of a larger file is left out
      # @return [String] contents, binary
      def file_head(path, limit = MIB)
        bytes = ''.b
        read_file(path) do |piece|
          bytes << piece
          break if bytes.bytesize >= limit
        end
        bytes.byteslice(0, limit)
      end

      # Yields every entry below +path+, directories before what they hold.
      def each_entry(path = '/', &block)
        return enum_for(:each_entry, path) unless block

        seen = {}
        queue = [entry(path)]
        while (directory = queue.pop)
          # A directory that is its own ancestor is damage; visit it once.
          next if seen[directory.ref]

          seen[directory.ref] = true
          children(directory).each do |child|
            block.call(child)
            queue << child if child.directory?
          end
        end
      end

      private

      # @param met [Array, nil] takes the links
      def walk(names, asked, links, met = nil)
        names.each_with_index.reduce(root_entry) do |current, (name, index)|
          raise NotFound.new("#{asked} is not there", where: asked) unless current.directory?

          child = child_named(current, name)
          raise NotFound.new("#{asked} is not there", where: asked) unless child
          next child unless child.symlink?

          return follow(child, names[(index + 1)..], asked, links + 1, met)
        end
      end

      def follow(link, rest, asked, links, met)
        raise NotFound.new("#{asked} goes round in links", where: asked) if links > LINKS

        target = file_target(link)
        met << [link.path, target] if met
        target = "#{::File.dirname(link.path)}/#{target}" unless target.start_with?('/')
        names = ::File.expand_path(target, '/').split('/').reject(&:empty?)
        walk(names + rest, asked, links, met)
      end

      def file_target(link)
        bytes = ''.b
        file_pieces(link) { |piece| bytes << piece }
        bytes.force_encoding('UTF-8').scrub
      end

      # @return [Array<(String, Boolean, Object)>] name, whether it is a directory, and what named_child takes
      def named_children(entry) = children(entry).map { |child| [child.name, child.directory?, child] }

      # @return [Entry]
      def named_child(_parent, _name, known) = known

      def child_named(entry, name) = children(entry).find { |child| same_name?(child.name, name) }
      def same_name?(one, two) = one == two
      def child_path(parent, name) = parent.path == '/' ? "/#{name}" : "#{parent.path}/#{name}"
    end
  end
end
