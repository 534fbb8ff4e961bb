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
      UNWRITTEN = 32_768 # extents longer than this are allocated, but read as zeros

      # @param disk [Disk] the volume
      # @param superblock [ExtSuperblock]
      # @param slots [String] the 60 bytes of i_block
      # @param extents [Boolean] whether they are an extent tree
      # @param number [Integer] of the inode
      # @param seen [Hash] index blocks that were met; one for several inodes finds those that share one
      def initialize(disk, superblock, slots, extents:, number:, seen: {})
        @disk = disk
        @super = superblock
        @block = superblock.block_size
        @slots = slots
        @extents = extents
        @number = number
        @seen = seen
      end

      # Yields logical block, physical block and count of each run of contents, ascending.
      # @param below [Integer] the first logical block that is not wanted
      # @raise [Damaged]
      def each_run(below: nil)
        @seen.clear
        walk(below) { |what, logical, physical, count| yield logical, physical, count if what == :data }
      end

      # Yields physical block and count of every run that it claims, in any order.
      # @raise [Damaged]
      def each_claim
        walk(nil) { |_, _, physical, count| yield physical, count }
      end

      private

      # Yields :data, :unwritten or :index, logical block, physical block and count.
      def walk(below, &)
        @next = 0
        @below = below
        @extents ? extents(@slots, DEEPEST, &) : mapped(&)
      end

      # Extent tree: header (magic, entries, most, depth), then 12 bytes each.
      def extents(node, depth_left, &)
        magic, entries, _, depth = node.unpack('v4')
        raise damaged('its extent tree is broken') if magic != MAGIC || 12 + (entries * 12) > node.bytesize || depth > depth_left

        entries.times do |index|
          at = 12 + (index * 12)
          next leaf(*node.unpack("@#{at}Vvv@#{at + 8}V"), &) if depth.zero?

          low, high = node.unpack("@#{at + 4}Vv")
          extents(block(low | (high << 32), &), depth - 1, &)
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
      def mapped(&)
        slots = @slots.unpack('V15')
        pointers(slots.first(12), 0, &)
        base = 12
        (1..3).each do |level|
          indirect(slots[11 + level], level, base, &)
          base += (@block / 4)**level
        end
      end

      # Neighbours are told as one run.
      def pointers(list, base, &)
        at = 0
        list.pop while list.last&.zero?
        limit = @below ? [list.size, @below - base].min : list.size
        return in_one_run(list, base, limit, &) if limit == list.size && one_run?(list)

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

      # Most lists are: then nothing has to be looked at one by one.
      def one_run?(list) = list.any? && list.first.positive? && list == (list.first...(list.first + list.size)).to_a

      def in_one_run(list, base, count)
        check(list.first, count)
        yield :data, base, list.first, count
      end

      def indirect(physical, level, base, &)
        return if physical.zero? || (@below && base >= @below)

        list = filled(block(physical, &))
        return pointers(list, base, &) if level == 1

        step = (@block / 4)**(level - 1)
        list.each_with_index { |child, index| indirect(child, level - 1, base + (index * step), &) unless child.zero? }
      end

      # Most of them are nearly empty: what is not comes first.
      # @return [Array<Integer>] pointers, up to some of the zeros at the end
      def filled(bytes)
        empty = bytes.index(EMPTY) or return bytes.unpack('V*')
        rest = bytes.bytesize - empty
        bytes.byteslice(empty, rest) == ZEROS.byteslice(0, rest) ? bytes.unpack("V#{(empty + 3) / 4}") : bytes.unpack('V*')
      end

      # A block of the tree or map itself: one that comes twice is a loop, or belongs to another.
      def block(number)
        raise damaged("block #{number} describes it twice, or another too") if @seen[number]

        check(number, 1)
        @seen[number] = true
        yield :index, nil, number, 1
        @disk.read(number * @block, @block)
      end

      def check(number, count)
        return if number >= @super.first_block && number.positive? && number + count <= @super.block_count

        raise damaged("it refers to block #{number} of #{@super.block_count}")
      end

      def damaged(message) = Damaged.new("inode #{@number}: #{message}", where: "inode #{@number}")
    end
  end
end
