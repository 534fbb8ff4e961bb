# frozen_string_literal: true

module Evrel
  module Volume
    # ext2, ext3 and ext4.
    class Ext
      include Tree

      MAGIC = 0xEF53
      ROOT_INODE = 2
      # ext4's own limits; a superblock beyond them lies.
      LARGEST_LOG_BLOCK = 6
      # mke2fs makes no smaller groups; it bounds their number.
      LEAST_PER_GROUP = 256
      MODES = { 0x4000 => :directory, 0x8000 => :file, 0xA000 => :symlink }.freeze

      attr_reader :superblock, :block_size

      # @return [Ext, nil]
      # @raise [Damaged] where the magic number is right and the rest is not
      def self.recognise(disk)
        return if disk.size < 2048 || disk.read(1024 + 0x38, 2).unpack1('v') != MAGIC

        new(disk)
      end

      def initialize(disk)
        @disk = disk
        @superblock = ExtSuperblock.read(disk.read(1024, 1024))
        check_superblock
        @block_size = superblock.block_size
        @groups = ExtGroups.new(disk, superblock)
        @inodes = {}
      end

      # What the features make it: extents make an ext4, a journal an ext3.
      def kind
        newer = ExtSuperblock::EXTENTS | ExtSuperblock::BITS_64 | ExtSuperblock::META_BG
        return 'ext4' if superblock.incompatible.anybits?(newer) ||
                         superblock.read_only_compatible.anybits?(~0x7 & 0xFFFF_FFFF)

        superblock.compatible_feature?(ExtSuperblock::HAS_JOURNAL) ? 'ext3' : 'ext2'
      end

      def label
        text = superblock.label.to_s.unpack1('Z*').force_encoding('UTF-8').scrub
        text unless text.empty?
      end

      def uuid = Guid.from_plain_bytes(superblock.uuid.to_s)
      def size = superblock.block_count * block_size

      # Unmounted in order (bit 0), without known errors (bit 1), and with
      # nothing left in the journal.
      def clean? = superblock.state.anybits?(1) && superblock.state.nobits?(2) && !journal_waits?

      # @return [Integer] bytes by the volume's own bitmaps
      def used_bytes = @used_bytes ||= used_extents.sum { |_, length| length }

      # While the journal waits to be replayed it holds newer bitmaps than the
      # volume: then every byte that is no hole counts.
      def used_extents(&block)
        return enum_for(:used_extents) unless block
        return @disk.extents(&block) if journal_waits? || superblock.read_only_feature?(ExtSuperblock::BIGALLOC)

        Runs.merged(@groups.each_used_run, block_size, &block)
      end

      # @return [Time, nil] when it was last mounted: of a system, when it was last started
      def mounted_at = superblock.mounted_at.zero? ? nil : Time.at(superblock.mounted_at)

      # @return [Time, nil] when something was last written to it
      def written_at = superblock.written_at.zero? ? nil : Time.at(superblock.written_at)

      private

      def journal_waits? = superblock.incompatible_feature?(ExtSuperblock::RECOVER)

      def check_superblock
        raise damaged("block size 2^#{superblock.log_block_size + 10}") if superblock.log_block_size > LARGEST_LOG_BLOCK

        bits = superblock.block_size * 8
        # A bitmap is one block, so it bounds the blocks (or clusters) and inodes of a group.
        unless superblock.blocks_per_group >= LEAST_PER_GROUP && superblock.clusters_per_group.between?(1, bits) &&
               superblock.inodes_per_group.between?(1, bits)
          raise damaged("#{superblock.blocks_per_group} blocks and #{superblock.inodes_per_group} inodes per group")
        end

        check_extent
        check_inode_count
      end

      def check_extent
        size = superblock.block_count * superblock.block_size
        if size > @disk.size || superblock.first_data_block > 1 || superblock.block_count <= superblock.first_data_block
          raise damaged("#{superblock.block_count} blocks of #{superblock.block_size} bytes in #{@disk.size} bytes")
        end
        return if superblock.revision.zero? || (superblock.inode_size.between?(128, superblock.block_size) &&
                                                superblock.inode_size.nobits?(superblock.inode_size - 1))

        raise damaged("inode size #{superblock.inode_size}")
      end

      # Every group has the same number of inodes, the last one too.
      def check_inode_count
        groups = (superblock.block_count - superblock.first_data_block).fdiv(superblock.blocks_per_group).ceil
        return if superblock.inode_count == groups * superblock.inodes_per_group

        raise damaged("#{superblock.inode_count} inodes in #{groups} groups of #{superblock.inodes_per_group}")
      end

      def damaged(message) = Damaged.new("ext superblock: #{message}", where: 'superblock')

      def root_entry = Entry.new(name: '/', path: '/', type: :directory, size: 0, ref: ROOT_INODE)

      def inode(number)
        @inodes.clear if @inodes.size > 4096
        @inodes[number] ||= ExtInode.new(@disk, superblock, @groups.inode_offset(number), number)
      end

      def children(entry) = names(entry).map { |name, number, _| child(entry, name, number) }
      def names(entry) = ExtDirectory.new(inode(entry.ref), entry.path).names

      def named_children(entry)
        names(entry).map { |name, number, type| [name, directory?(number, type), number] }
      end

      def named_child(parent, name, number) = child(parent, name, number)

      # Volumes without the feature "filetype" keep the type in the inode alone.
      def directory?(number, type)
        type == ExtDirectory::UNKNOWN_TYPE ? inode(number).directory? : type == ExtDirectory::DIRECTORY_TYPE
      end

      def child_named(entry, name)
        found, number, = names(entry).find { |known, _| known == name }
        found && child(entry, found, number)
      end

      def extents_of(entry)
        yield @groups.inode_offset(entry.ref), superblock.revision.zero? ? 128 : superblock.inode_size.to_i
        inode(entry.ref).extents_on_disk { |block, count| yield block * block_size, count * block_size }
      end

      def child(parent, name, number)
        node = inode(number)
        Entry.new(name:, path: child_path(parent, name), type: MODES.fetch(node.mode & 0xF000, :other),
                  size: node.size, modified_at: node.modified_at, ref: number)
      end

      def file_pieces(entry, &) = inode(entry.ref).each_piece(&)
    end
  end
end
