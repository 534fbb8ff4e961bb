# frozen_string_literal: true

module Evrel
  module Volume
    # The names in one ext directory. Hashed directories read the same way: the
    # blocks of their index look like empty records to a reader of lists.
    class ExtDirectory
      # 65,535 links bound the subdirectories, not the files; no real directory
      # is larger than this.
      LARGEST = GIB
      # Types in a record; all others are no concern here.
      UNKNOWN_TYPE = 0
      DIRECTORY_TYPE = 2

      # @param inode [ExtInode]
      # @param path [String] for messages
      def initialize(inode, path)
        @inode = inode
        @path = path
      end

      # @return [Array<(String, Integer, Integer)>] name, inode number and type, without "." and ".."
      # @raise [Damaged]
      def names
        raise damaged('is not a directory') unless @inode.directory?
        raise damaged("claims #{@inode.size} bytes") if @inode.size > LARGEST

        found = []
        @inode.each_piece.with_index { |bytes, index| records(bytes, found, parent_number(index)) }
        found
      end

      private

      # Inside of an inode the list begins with the number of the parent instead of "." and "..".
      def parent_number(piece) = @inode.inline? && piece.zero? ? 4 : 0

      # Record: inode (4), its length (2), length of the name (1), type (1), name.
      def records(bytes, found, at)
        while at + 8 <= bytes.bytesize
          number, length, name_length, type = bytes.unpack("@#{at}VvCC")
          # Blocks of 64 KiB store their length as 0 or 65,535.
          length = 65_536 if [0, 65_535].include?(length) && bytes.bytesize - at >= 65_536
          if length < 8 + name_length || (length % 4).nonzero? || at + length > bytes.bytesize
            raise damaged("has a record of #{length} bytes")
          end

          add(found, number, bytes.byteslice(at + 8, name_length), type)
          at += length
        end
      end

      def add(found, number, name, type)
        return if number.zero? || name.empty? || name == '.' || name == '..'

        name.force_encoding('UTF-8')
        name = name.scrub unless name.valid_encoding?
        found << [Name.safe(name), number, type]
      end

      def damaged(message) = Damaged.new("directory #{@path} #{message}", where: @path)
    end
  end
end
