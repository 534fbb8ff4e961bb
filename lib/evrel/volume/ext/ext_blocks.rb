# frozen_string_literal: true

module Evrel
  module Volume
    # The blocks that an inode claims: those of its contents, by extents or by
    # the older block map, and those that describe where these lie. ("ext4 Data
    # Structures and Algorithms", sections "Extent Tree" and "Direct/Indirect
    # Block Addressing".)
    class ExtBlocks
      MAGIC = 0xF30A
      # Five levels are the most that an extent tree of 2^32 blocks can have.
      DEEPEST = 5
      ZEROS = ("\0".b * 65_536).freeze # as much as the largest block
      EMPTY = ZEROS.byteslice(0, 64).freeze # longer than what two pointers can have of zeros
      WINDOW = 16_384 # blocks
      WINDOWS = 8 # that are kept
      UNWRITTEN = 32_768 # extents longer than this are allocated, but read as zeros

      # @param disk [Disk] the volume
      # @param superblock [ExtSuperblock]
      def initialize(disk, superblock)
        @disk = disk
        @block = superblock.block_size
        @first = [superblock.first_block, 1].max
        @count = superblock.block_count
        @in_a_block = @block / 4
        @last = ''.b # the last index block: thousands are read, and none is kept
        @windows = {}
        @seen = {}
      end

      # Yields logical block, physical block and count of each run of contents, ascending.
      # @param slots [String] the 60 bytes of i_block
      # @param number [Integer] of the inode
      # @param extents [Boolean] whether they are an extent tree
      # @param below [Integer] the first logical block that is not wanted
      # @raise [Damaged]
      def each_run(slots, number:, extents:, below: nil)
        @seen.clear
        @below = below
        walk(slots, number, extents, below) { |what, logical, physical, count| yield logical, physical, count if what == :data }
      end

      # Yields physical block and count of every run that an inode claims, in
      # any order. Asked for several inodes, it finds those that share an index block.
      # @param slots [String] as above
      # @param size [Integer] of the file, in bytes; claims beyond it are told as well
      # @raise [Damaged]
      def each_claim(slots, number:, extents:, size:)
        @below = nil
        walk(slots, number, extents, (size + @block - 1) / @block) { |_, _, physical, count| yield physical, count }
      end

      # Most files of a block map lie in one piece, with the block that describes them between their own: then nothing of it
      # has to be taken apart.
      # @param slots [String] as above
      # @param size [Integer] of the file, in bytes
      # @return [(Integer, Integer), nil] first block and count of all that it claims; nil where it has to be looked at
      def one_claim(slots, size)
        blocks = (size + @block - 1) / @block
        first = slots.unpack1('V')
        return if first < @first || blocks.zero? || first + blocks >= @count || blocks > 12 + @in_a_block
        return if slots != run(first, [blocks, 13].min).ljust(60, "\0")
        return [first, blocks] if blocks <= 12
        return if @seen[first + 12]

        # The index block follows the twelfth.
        bytes = @disk.read_into(@last, (first + 12) * @block, @block)
        return unless one_run?(bytes, first + 13, blocks - 12)

        @seen[first + 12] = true
        [first, blocks + 1]
      end

      private

      # @return [String] so many pointers, each to the block behind the one before; cut out of many, since neighbours are asked for
      def run(first, count)
        number = first / WINDOW
        @windows.shift if @windows.size > WINDOWS
        @windows[number] ||= ((number * WINDOW)...(((number + 1) * WINDOW) + @in_a_block + 13)).to_a.pack('V*')
        @windows[number].byteslice((first % WINDOW) * 4, count * 4)
      end

      # Yields :data, :unwritten or :index, logical block, physical block and count.
      def walk(slots, number, extents, blocks, &)
        @next = 0
        @number = number
        @blocks = blocks
        extents ? extents(slots, DEEPEST, &) : mapped(slots, &)
      end

      # Extent tree: header (magic, entries, most, depth), then 12 bytes each.
      def extents(node, depth_left, &)
        magic, entries, _, depth = node.unpack('v4')
        raise damaged('its extent tree is broken') if magic != MAGIC || 12 + (entries * 12) > node.bytesize || depth > depth_left

        entries.times do |index|
          first, second, third, fourth = node.unpack('VvvV', offset: 12 + (index * 12))
          # ee_block, ee_len, ee_start_hi, ee_start_lo; in an index ei_leaf_lo lies in the place of the two in the middle, ei_leaf_hi next.
          next leaf(first, second, third, fourth, &) if depth.zero?

          extents(block(second | (third << 16) | ((fourth & 0xFFFF) << 32), &), depth - 1, &)
        end
      end

      def leaf(logical, length, high, low)
        unwritten = length > UNWRITTEN
        length -= UNWRITTEN if unwritten
        physical = low | (high << 32)
        # Backwards or out of range means a loop or garbage.
        raise damaged("its block #{logical} is mapped twice") if logical < @next

        check(physical, length)
        @next = logical + length
        yield unwritten ? :unwritten : :data, logical, physical, length
      end

      # The block map: 12 direct, then one, two and three levels of indirection.
      def mapped(slots, &)
        direct = slots.unpack('V15')
        once, twice, thrice = direct.pop(3)
        pointers(direct, 0, &)
        indirect(once, 1, 12, &) unless once.zero?
        indirect(twice, 2, 12 + @in_a_block, &) unless twice.zero?
        indirect(thrice, 3, 12 + @in_a_block + (@in_a_block**2), &) unless thrice.zero?
      end

      # Neighbours are told as one run.
      def pointers(list, base, &)
        list.pop while list.last&.zero?
        at = 0
        limit = @below ? [list.size, @below - base].min : list.size
        while at < limit
          first = list[at]
          next at += 1 if first.zero?

          count = 1
          count += 1 while list[at + count] == first + count
          check(first, count)
          yield :data, base + at, first, [count, limit - at].min
          at += count
        end
      end

      def indirect(physical, level, base, &)
        return if @below && base >= @below

        return last_level(physical, base, &) if level == 1

        step = @in_a_block**(level - 1)
        block(physical, &).unpack('V*').each_with_index do |child, index|
          indirect(child, level - 1, base + (index * step), &) unless child.zero?
        end
      end

      # Most of these are one run, as long as the file's size says, and zeros: then nothing has to be looked at one by one.
      def last_level(physical, base, &)
        bytes = block(physical, @last, &)
        first = bytes.unpack1('V')
        count = (@blocks - base).clamp(1, @in_a_block)
        return pointers(filled(bytes), base, &) unless first.positive? && one_run?(bytes, first, count)

        check(first, count)
        yield :data, base, first, count
      end

      # Others are nearly empty.
      # @return [Array<Integer>] pointers, up to some of the zeros at the end
      def filled(bytes)
        empty = bytes.index(EMPTY) or return bytes.unpack('V*')
        rest = bytes.bytesize - empty
        bytes.end_with?(ZEROS.byteslice(-rest, rest)) ? bytes.unpack("V#{(empty + 3) / 4}") : bytes.unpack('V*')
      end

      def one_run?(bytes, first, count)
        rest = @block - (count * 4)
        bytes.start_with?(run(first, count)) && bytes.end_with?(ZEROS.byteslice(-rest, rest))
      end

      # A block of the tree or map itself: one that comes twice is a loop, or belongs to another.
      def block(number, buffer = nil)
        raise damaged("block #{number} describes it twice, or another too") if @seen[number]

        check(number, 1)
        @seen[number] = true
        yield :index, nil, number, 1
        buffer ? @disk.read_into(buffer, number * @block, @block) : @disk.read(number * @block, @block)
      end

      def check(number, count)
        return if number >= @first && number + count <= @count

        raise damaged("it refers to block #{number} of #{@count}")
      end

      def damaged(message) = Damaged.new("inode #{@number}: #{message}", where: "inode #{@number}")
    end
  end
end
