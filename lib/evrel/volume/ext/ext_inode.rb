# frozen_string_literal: true

module Evrel
  module Volume
    # One inode: size, times, and its contents, in blocks or inside of the inode
    # itself.
    class ExtInode
      EXTENTS = 0x80000     # i_flags
      INLINE = 0x10000000   # i_flags
      ENCRYPTED = 0x800     # i_flags
      PIECE = MIB

      attr_reader :mode, :size, :modified_at

      def initialize(disk, superblock, offset, number)
        @disk = disk
        @super = superblock
        @block = superblock.block_size
        @number = number
        @raw = disk.read(offset, superblock.inode_bytes)
        # i_mode 0x00, i_size_lo 0x04, i_mtime 0x10, i_flags 0x20, i_block 0x28, i_size_high 0x6C
        @mode, low, time, @flags, high = @raw.unpack('v@4V@16V@32V@108V')
        @size = low | (high << 32)
        @modified_at = Time.at(time | (extra_seconds << 32))
      end

      def directory? = mode & 0xF000 == 0x4000

      # @return [Boolean] whether its owner has encrypted it: names of a directory, contents of a file
      def encrypted? = @flags.anybits?(ENCRYPTED)

      # @return [Boolean] whether the contents lie inside of the inode
      def inline? = @flags.anybits?(INLINE)

      # Yields the contents in pieces of at most 1 MiB.
      def each_piece(&)
        return enum_for(:each_piece) unless block_given?
        return inline(&) if inline?
        return yield(@raw.byteslice(0x28, size)) if fast_link?

        at = 0
        each_run do |logical, physical, count|
          at = zeros(at, logical * @block, &)
          at = copy(at, physical, count, &)
        end
        zeros(at, size, &)
      end

      # Yields first block and count of each run of its contents.
      def extents_on_disk
        return if inline? || fast_link?

        each_run { |_, physical, count| yield physical, count }
      end

      private

      # i_mtime_extra, 0x88: its two low bits continue the seconds past 2038.
      def extra_seconds = @raw.bytesize >= 0x8C ? @raw.unpack1('@136V') & 3 : 0

      def fast_link? = mode & 0xF000 == 0xA000 && size < 60 && @flags.nobits?(EXTENTS)

      def copy(at, physical, count)
        left = [count * @block, size - at].min
        offset = physical * @block
        while left.positive?
          length = [left, PIECE].min
          yield @disk.read(offset, length)
          offset += length
          at += length
          left -= length
        end
        at
      end

      # A hole, up to byte +to+ of the file.
      def zeros(at, to)
        to = [to, size].min
        while at < to
          length = [to - at, PIECE].min
          yield "\0".b * length
          at += length
        end
        at
      end

      # Yields logical block, physical block and count of each run, ascending.
      def each_run(&)
        extents = @flags.anybits?(EXTENTS)
        ExtBlocks.new(@disk, @super)
                 .each_run(@raw.byteslice(0x28, 60), number: @number, extents:, below: ((size + @block - 1) / @block unless extents), &)
      end

      # The first 60 bytes lie in i_block, the rest in the attribute
      # "system.data" behind the inode's fixed fields.
      def inline
        yield @raw.byteslice(0x28, [size, 60].min)
        return if size <= 60

        rest = inline_attribute&.byteslice(0, size - 60)
        raise damaged('its contents are cut') unless rest && rest.bytesize == size - 60

        yield rest
      end

      # In-inode attributes: magic 0xEA020000, then entries of 16 bytes and a name.
      def inline_attribute
        at = 128 + @raw.unpack1('@128v')
        return unless @raw.byteslice(at, 4)&.unpack1('V') == 0xEA020000

        entries = at + 4
        at = entries
        while (head = @raw.byteslice(at, 16)) && head.bytesize == 16 && head.byteslice(0, 4) != "\0\0\0\0".b
          name_length, index, value_at, _, length = head.unpack('CCvVV')
          return @raw.byteslice(entries + value_at, length) if index == 7 && @raw.byteslice(at + 16, name_length) == 'data'

          at += (16 + name_length + 3) & ~3
        end
      end

      def damaged(message) = Damaged.new("inode #{@number}: #{message}", where: "inode #{@number}")
    end
  end
end
