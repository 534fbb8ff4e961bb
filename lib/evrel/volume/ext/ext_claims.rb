# frozen_string_literal: true

module Evrel
  module Volume
    # Which blocks the inodes of an ext volume claim: read from the inode
    # tables, whatever directories and bitmaps say.
    class ExtClaims
      PIECE = MIB
      KINDS = [0x8000, 0x4000, 0xA000].freeze # file, directory, symbolic link (i_mode)
      LINK = 0xA000
      NO_BLOCKS = ExtInode::INLINE
      # i_mode 0x00, i_size 0x04, i_links_count 0x1A, i_flags 0x20, i_block 0x28, i_file_acl 0x68 and, above 32 bits, 0x76
      FIELDS = 'vx2Vx18vx4Vx4a60x4Vx10v'
      LINUX = 0 # s_creator_os

      # @param disk [Disk] the volume
      # @param superblock [ExtSuperblock]
      # @param groups [ExtGroups]
      def initialize(disk, superblock, groups)
        @disk = disk
        @super = superblock
        @groups = groups
        @size = superblock.inode_bytes
        @large = superblock.incompatible_feature?(ExtSuperblock::BITS_64)
        @empty = "\0".b * [4096, @size].max
        @blocks = ExtBlocks.new(disk, superblock)
      end

      # Yields number of the inode, first block and number of blocks.
      # @raise [Damaged, Unreadable]
      def each(&)
        @groups.count.times { |group| table(group, &) }
      end

      private

      # What was never written is left out: there the descriptor's checksum vouches for that.
      def table(group, &)
        own = @groups[group]
        return if @super.lazy? && own.flags.anybits?(ExtGroups::INODE_UNINIT)

        count = @super.inodes_per_group - (@super.lazy? ? own.unused_inodes : 0)
        (count * @size).clamp(0, @groups.table_blocks * @super.block_size).then do |bytes|
          0.step(bytes - 1, PIECE) do |at|
            piece = @disk.read((own.inode_table * @super.block_size) + at, [PIECE, bytes - at].min)
            inodes(piece, (group * @super.inodes_per_group) + (at / @size) + 1, &)
          end
        end
      end

      # Most of a table is empty: that is passed over a block at a time.
      def inodes(piece, number, &)
        0.step(piece.bytesize - 1, @empty.bytesize) do |from|
          next if piece.byteslice(from, @empty.bytesize) == @empty

          some(piece, from, [from + @empty.bytesize, piece.bytesize].min, number, &)
        end
      end

      def some(piece, from, below, number, &)
        from.step(below - @size, @size) do |at|
          mode, size, links, flags, slots, acl, acl_high = piece.unpack(FIELDS, offset: at)
          # What has no name any more claims nothing.
          next if links.zero? || mode.zero?

          inode = number + (at / @size)
          acl |= acl_high << 32 if @large
          attributes(acl, inode) { yield inode, acl, 1 } if acl.positive?
          next unless KINDS.include?(mode & 0xF000) && flags.nobits?(NO_BLOCKS)

          extents = flags.anybits?(ExtInode::EXTENTS)
          next if (mode & 0xF000) == LINK && size < 60 && !extents

          contents(inode, slots, extents, size, &)
        end
      end

      # What describes a file lies between its contents on most disks: all of it is one run.
      def contents(inode, slots, extents, size)
        first, length = @blocks.one_claim(slots, size) unless extents
        return yield inode, first, length if first

        @blocks.each_claim(slots, number: inode, extents:, size:) do |block, count|
          next length += count if first && block == first + length

          yield inode, first, length if first
          first = block
          length = count
        end
        yield inode, first, length if first
      end

      def attributes(block, number)
        return yield if block.between?(@super.first_block, @super.block_count - 1)

        raise Damaged.new("inode #{number}: its attributes are in block #{block} of #{@super.block_count}", where: "inode #{number}")
      end
    end
  end
end
