# frozen_string_literal: true

module Evrel
  module Image
    # A qcow2 file with all that it builds on: together they are one image.
    class Chain
      LONGEST = 64

      # What speaks against the chain as it lies there.
      attr_reader :findings

      # Entries of its files, the topmost first.
      attr_reader :members

      # @param shelf [Shelf::Folder, Shelf::Web]
      # @param logical_sector [Integer] bytes
      # @param passphrase [String, nil] of those of its files that are encrypted
      def initialize(shelf, logical_sector: 512, passphrase: nil)
        @shelf = shelf
        @passphrase = passphrase
        @logical_sector = logical_sector
        @members = []
        @findings = []
      end

      # @param entry [Shelf::Entry] of the topmost file
      # @param source [Disk] its bytes
      # @return [Qcow2]
      # @raise [Unreadable] where a file is missing, by its name
      # @raise [Damaged, Unsupported]
      def open(entry, source)
        @members << entry
        opened = Qcow2.new(source, name: entry.path, logical_sector: @logical_sector, passphrase: @passphrase)
        @locked ||= opened.locked?
        named = opened.backing_name
        opened.backing = below(entry, named, opened.backing_format) if named
        opened
      rescue StandardError
        opened ? opened.close : source.close
        raise
      end

      # @return [Boolean] whether a passphrase opened one of them
      def locked? = @locked == true

      private

      def below(above, named, format)
        entry = find(above, named)
        check(above, entry)
        source = @shelf.open(entry.path)
        format ||= Format.of(source)
        return self.open(entry, source) if format == 'qcow2'

        @members << entry
        return Disk::Window.of_file(source) if format == 'raw'

        source.close
        raise Unsupported.new("#{above.name} builds on #{entry.name}, whose format is #{format}", where: entry.path)
      end

      def find(above, named)
        if named.start_with?('json:') || named.match?(/\A\w+:/)
          raise Unsupported.new("#{above.name} builds on #{named[0, 60].inspect}",
                                where: above.path)
        end

        # A full path is that of another machine: the file is looked for beside the one that names it.
        relative = named.start_with?('/') ? ::File.basename(named) : named
        path = Shelf.inside([above.folder, relative].join('/'))
        @shelf.entry(path) or raise Unreadable.new("#{::File.basename(relative)} is missing, on which #{above.name} builds",
                                                   where: path, hint: 'put it beside the others')
      end

      def check(above, entry)
        if @members.any? { |member| member.path == entry.path } || @members.size >= LONGEST
          raise Damaged.new("#{above.name} builds on #{entry.name}, which builds on it", where: above.path)
        end
        return unless entry.modified_at && above.modified_at && entry.modified_at > above.modified_at + 1

        @findings << "#{entry.name} was changed after #{above.name} was made, which builds on it"
      end
    end
  end
end
