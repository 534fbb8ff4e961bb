# frozen_string_literal: true

module Evrel
  module Volume
    # Which blocks of an ext volume are in use, by the bitmap of each group. All
    # of a group counts where its bitmap is not believed.
    class ExtBitmaps
      KEPT = 4096 # bitmaps of as many groups stay in memory

      # @param disk [Disk] the volume
      # @param superblock [ExtSuperblock]
      # @param groups [ExtGroups]
      def initialize(disk, superblock, groups)
        @disk = disk
        @block = superblock.block_size
        @bytes = superblock.blocks_per_group / 8
        @lazy = superblock.lazy?
        @empty = Hash.new { |known, size| known[size] = ("\0".b * size).freeze }
        @groups = groups
        @whole = {}
        @cache = {}
      end

      # From now on all of a group counts as used.
      def keep_whole(group)
        @whole[group] = true
        @cache.delete(group)
      end

      # @return [Boolean]
      def whole?(group) = @whole.key?(group)

      # @param group [Integer]
      # @return [String] its bits, the first block's first; of the last group more than it has blocks
      # @raise [Damaged, Unreadable]
      def [](group)
        @cache.shift if @cache.size >= KEPT
        @cache[group] ||= whole?(group) ? "\xFF".b * @bytes : stored(group)
      end

      # @return [Integer] how many blocks of a group are free
      def free(group)
        length = @groups.length(group)
        bits = self[group]
        # Most groups of most volumes are empty.
        bits == @empty[bits.bytesize] ? length : length - bits.unpack1("b#{length}").count('1')
      end

      # Yields first block and number of blocks of each run in use, ascending;
      # block 0 counts where it lies in front of the first group.
      def each_run
        return enum_for(:each_run) unless block_given?

        first = @groups.start(0)
        yield 0, first if first.positive?
        @groups.count.times do |group|
          length = @groups.length(group)
          start = @groups.start(group)
          next yield start, length if whole?(group)

          bits = self[group]
          next if bits == @empty[bits.bytesize]

          Runs.of_bits(bits.unpack1("b#{length}")) { |at, count| yield start + at, count }
        end
      end

      # @param block [Integer]
      # @param count [Integer]
      # @return [Boolean] whether all of these blocks count as used
      def marked?(block, count)
        while count.positive?
          group, index = @groups.place(block)
          take = [count, @groups.length(group) - index].min
          return false unless Runs.all_set?(self[group], index, take)

          block += take
          count -= take
        end
        true
      end

      # @return [Boolean] whether a group's bitmap was never written, so that it is worked out
      def never_written?(group) = @lazy && @groups[group].flags.anybits?(ExtGroups::BLOCK_UNINIT)

      private

      def stored(group)
        return computed(group) if never_written?(group)

        @disk.read(@groups[group].block_bitmap * @block, @bytes)
      end

      # What the bitmap would say, had it been written: whatever of the group's own structures lies in it.
      def computed(group)
        length = @groups.length(group)
        start = @groups.start(group)
        own = @groups.structures(group).select { |first, _| first.between?(start, start + length - 1) }
        return @empty[@bytes] if own.empty?

        bits = '0' * (@bytes * 8)
        own.each { |first, count| bits[first - start, count] = '1' * count }
        [bits].pack('b*')
      end
    end
  end
end
