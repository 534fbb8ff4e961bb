# frozen_string_literal: true

module Evrel
  module Volume
    # The block groups of an ext volume: where their bitmaps and inode tables
    # are, and which blocks are in use. ("ext4 Data Structures and Algorithms",
    # sections "Block Group Descriptors", "Meta Block Groups", "Lazy Block
    # Group Initialization".)
    class ExtGroups
      BLOCK_UNINIT = 0x2 # bg_flags: the block bitmap was never written
      Group = Struct.new(:block_bitmap, :inode_bitmap, :inode_table, :flags)

      def initialize(disk, superblock)
        @disk = disk
        @super = superblock
        @block = superblock.block_size
        @first = superblock.first_data_block.to_i
        @per_group = superblock.blocks_per_group.to_i
        @blocks = superblock.block_count
        @count = (@blocks - @first + @per_group - 1) / @per_group
        @descriptor = descriptor_size
        @per_block = @block / @descriptor
        @cache = {}
      end

      # @param number [Integer] inode number, from 1
      # @return [Integer] byte offset of the inode on the volume
      def inode_offset(number)
        raise Damaged.new("inode #{number} does not exist", where: "inode #{number}") unless inode?(number)

        group, index = (number - 1).divmod(@super.inodes_per_group)
        (self[group].inode_table * @block) + (index * inode_size)
      end

      # Yields first block and number of blocks of each run in use, ascending;
      # block 0 counts where it lies in front of the first group.
      def each_used_run
        return enum_for(:each_used_run) unless block_given?

        yield 0, @first if @first.positive?
        (0...@count).each do |group|
          start = @first + (group * @per_group)
          each_used_in(group) { |first, count| yield start + first, count }
        end
      end

      private

      def inode?(number) = number.between?(1, [@super.inode_count, @count * @super.inodes_per_group].min)
      def inode_size = @super.revision.zero? ? 128 : @super.inode_size.to_i

      # Descriptors of 64-bit volumes have the size that the superblock says, all others 32 bytes.
      def descriptor_size
        return 32 unless @super.incompatible_feature?(ExtSuperblock::BITS_64)

        size = @super.descriptor_size.to_i
        return size if size.between?(32, 1024) && size.nobits?(size - 1)

        raise Damaged.new("group descriptors of #{size} bytes", where: 'superblock')
      end

      def [](group)
        raise Damaged.new("block group #{group} does not exist", where: "group #{group}") unless group < @count

        @cache.clear if @cache.size > 4096
        @cache[group] ||= parse(descriptor_bytes(group), group)
      end

      def descriptor_bytes(group)
        table, index = group.divmod(@per_block)
        @disk.read((descriptor_block(table) * @block) + (index * @descriptor), @descriptor)
      end

      # Without meta groups all descriptors follow the first superblock; with
      # them each block of descriptors lies in the group that it begins.
      def descriptor_block(table)
        meta = @super.incompatible_feature?(ExtSuperblock::META_BG)
        # The superblock is in block 1 of 1 KiB blocks, in block 0 of larger ones.
        return @first + 1 + table unless meta && table >= @super.first_meta_group

        group = table * @per_block
        start = @first + (group * @per_group)
        start + (backup?(group) ? 1 : 0)
      end

      def parse(bytes, group)
        low = bytes.unpack('V3@18v') # bitmap, inode bitmap and inode table; bg_flags at 0x12
        high = bytes.bytesize >= 64 ? bytes.unpack('@32V3') : [0, 0, 0]
        places = low.first(3).zip(high).map { |lo, hi| lo | (hi << 32) }
        if (bad = places.find { |place| place >= @blocks || place < @first })
          raise Damaged.new("group #{group} has its structures in block #{bad} of #{@blocks}", where: "group #{group}")
        end

        Group.new(*places, low[3])
      end

      # Yields first block, counted within the group, and count of each run.
      def each_used_in(group, &)
        length = [@per_group, @blocks - @first - (group * @per_group)].min
        return computed_runs(group, length).each(&) if never_written?(group)

        bits = @disk.read(self[group].block_bitmap * @block, (length + 7) / 8).unpack1('b*')
        Runs.of_bits(bits[0, length], &)
      end

      def never_written?(group)
        checksums = ExtSuperblock::GDT_CHECKSUM | ExtSuperblock::METADATA_CHECKSUM
        @super.read_only_compatible.anybits?(checksums) && self[group].flags.anybits?(BLOCK_UNINIT)
      end

      # What the bitmap would say, had it been written: superblock and
      # descriptor copies, and whatever of its structures lies in this group.
      def computed_runs(group, length)
        own = self[group]
        start = @first + (group * @per_group)
        table = ((@super.inodes_per_group * inode_size) + @block - 1) / @block
        [[0, base_blocks(group)], [own.block_bitmap - start, 1], [own.inode_bitmap - start, 1],
         [own.inode_table - start, table]]
          .select { |first, count| first.between?(0, length - 1) && count.positive? }
          .map { |first, count| [first, [count, length - first].min] }.sort
      end

      # Blocks at the start of a group for the superblock and descriptor copies.
      def base_blocks(group)
        copy = backup?(group) ? 1 : 0
        table, index = group.divmod(@per_block)
        if @super.incompatible_feature?(ExtSuperblock::META_BG) && table >= @super.first_meta_group
          # A meta group keeps its descriptors in its first, second and last group.
          return copy + ([0, 1, @per_block - 1].include?(index) ? 1 : 0)
        end

        copy.zero? ? 0 : 1 + old_descriptor_blocks + @super.reserved_gdt_blocks
      end

      def old_descriptor_blocks
        return @super.first_meta_group.to_i if @super.incompatible_feature?(ExtSuperblock::META_BG)

        (@count + @per_block - 1) / @per_block
      end

      # Which groups hold a copy of the superblock.
      def backup?(group)
        return true if group.zero?
        return @super.backup_groups.include?(group) if @super.compatible_feature?(ExtSuperblock::SPARSE_SUPER2)
        return true unless @super.read_only_feature?(ExtSuperblock::SPARSE_SUPER)

        group == 1 || [3, 5, 7].any? { |base| power_of?(group, base) }
      end

      def power_of?(number, base)
        number /= base while (number % base).zero?
        number == 1
      end
    end
  end
end
