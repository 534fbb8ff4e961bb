# frozen_string_literal: true

module Evrel
  module Volume
    # The block groups of an ext volume: what their descriptors say, and where
    # each has what belongs to the file system itself. ("ext4 Data Structures
    # and Algorithms", sections "Block Group Descriptors", "Meta Block Groups",
    # "Lazy Block Group Initialization".)
    class ExtGroups
      INODE_UNINIT = 0x1 # bg_flags: no inode was ever written
      BLOCK_UNINIT = 0x2 # bg_flags: the block bitmap was never written

      # Places are block numbers; free_blocks and unused_inodes (at the end of
      # the table) are counts; bytes is the descriptor as it lies there.
      Group = Struct.new(:block_bitmap, :inode_bitmap, :inode_table, :flags, :free_blocks, :unused_inodes, :bytes)

      attr_reader :count

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
        # Asked for every group: fields of a record are slow.
        @meta = superblock.incompatible_feature?(ExtSuperblock::META_BG) ? superblock.first_meta_group.to_i : nil
        @reserved = superblock.reserved_gdt_blocks.to_i
        @table_blocks = ((superblock.inodes_per_group * superblock.inode_bytes) + @block - 1) / @block
        @copies = copies
        @cache = {}
      end

      # @param number [Integer] inode number, from 1
      # @return [Integer] byte offset of the inode on the volume
      def inode_offset(number)
        raise Damaged.new("inode #{number} does not exist", where: "inode #{number}") unless inode?(number)

        group, index = (number - 1).divmod(@super.inodes_per_group)
        (self[group].inode_table * @block) + (index * @super.inode_bytes)
      end

      # @return [Group]
      # @raise [Damaged]
      def [](group)
        raise Damaged.new("block group #{group} does not exist", where: "group #{group}") unless group < @count

        @cache.clear if @cache.size > 4096
        @cache[group] ||= parse(descriptor_bytes(group), group)
      end

      # @return [Integer] its first block
      def start(group) = @first + (group * @per_group)

      # @return [Integer] its blocks; the last group may be shorter
      def length(group) = [@per_group, @blocks - start(group)].min

      # @param block [Integer]
      # @return [(Integer, Integer)] the group that it lies in, and which block of that it is
      def place(block) = (block - @first).divmod(@per_group)

      # @return [Integer] blocks of one inode table
      attr_reader :table_blocks

      # @return [Array<(Integer, Integer)>] first block and number of blocks of each
      #   structure that a group has: the superblock and descriptors at its
      #   start, and its bitmaps and inode table wherever they lie
      def structures(group)
        own = self[group]
        [[start(group), base_blocks(group)], [own.block_bitmap, 1], [own.inode_bitmap, 1], [own.inode_table, table_blocks]]
          .select { |_, count| count.positive? }
      end

      # @return [Boolean] whether a copy of the superblock is in it
      def backup?(group) = @copies.nil? || @copies.include?(group)

      private

      def inode?(number) = number.between?(1, [@super.inode_count, @count * @super.inodes_per_group].min)

      # Descriptors of 64-bit volumes have the size that the superblock says, all others 32 bytes.
      def descriptor_size
        return 32 unless @super.incompatible_feature?(ExtSuperblock::BITS_64)

        size = @super.descriptor_size.to_i
        return size if size.between?(32, 1024) && size.nobits?(size - 1)

        raise Damaged.new("group descriptors of #{size} bytes", where: 'superblock')
      end

      # Whoever asks for one asks for its neighbours next: a block of them is read at once, unless a place in it cannot be read.
      def descriptor_bytes(group)
        table, index = group.divmod(@per_block)
        @row = [table, row(table)] unless @row&.first == table
        @row.last&.byteslice(index * @descriptor, @descriptor) ||
          @disk.read((descriptor_block(table) * @block) + (index * @descriptor), @descriptor)
      end

      # @return [String, nil]
      def row(table)
        @disk.read(descriptor_block(table) * @block, @block)
      rescue Unreadable, Damaged
        nil
      end

      # Without meta groups all descriptors follow the first superblock; with
      # them each block of descriptors lies in the group that it begins.
      def descriptor_block(table)
        # The superblock is in block 1 of 1 KiB blocks, in block 0 of larger ones.
        return @first + 1 + table unless @meta && table >= @meta

        group = table * @per_block
        start(group) + (backup?(group) ? 1 : 0)
      end

      # struct ext4_group_desc: bitmap, inode bitmap and inode table at 0x00,
      # free blocks at 0x0C, flags at 0x12, unused inodes at 0x1C; the upper
      # halves at 0x20, 0x2C and 0x32.
      def parse(bytes, group)
        blocks, inodes, table, free, flags, unused = bytes.unpack('V3v@18v@28v')
        if bytes.bytesize >= 64
          blocks_high, inodes_high, table_high, free_high, unused_high = bytes.unpack('@32V3@44v@50v')
          blocks |= blocks_high << 32
          inodes |= inodes_high << 32
          table |= table_high << 32
          free |= free_high << 16
          unused |= unused_high << 16
        end
        [blocks, inodes, table].each { |place| check(place, group) }
        Group.new(blocks, inodes, table, flags, free, unused, bytes)
      end

      def check(place, group)
        return if place < @blocks && place >= @first

        raise Damaged.new("group #{group} has its structures in block #{place} of #{@blocks}", where: "group #{group}")
      end

      # Blocks at the start of a group for the superblock and descriptor copies.
      def base_blocks(group)
        copy = backup?(group) ? 1 : 0
        table, index = group.divmod(@per_block)
        if @meta && table >= @meta
          # A meta group keeps its descriptors in its first, second and last group.
          return copy + ([0, 1, @per_block - 1].include?(index) ? 1 : 0)
        end

        copy.zero? ? 0 : 1 + (@meta || ((@count + @per_block - 1) / @per_block)) + @reserved
      end

      # @return [Set<Integer>, nil] groups with a copy of the superblock; nil: all of them
      def copies
        return [0, *@super.backup_groups.to_a].to_set if @super.compatible_feature?(ExtSuperblock::SPARSE_SUPER2)
        return unless @super.read_only_feature?(ExtSuperblock::SPARSE_SUPER)

        [3, 5, 7].each_with_object([0, 1].to_set) do |base, found|
          power = base
          while power < @count
            found << power
            power *= base
          end
        end
      end
    end
  end
end
