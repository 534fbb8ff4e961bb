# frozen_string_literal: true

require 'securerandom'

module Evrel
  module Volume
    # ext2, ext3 and ext4.
    class Ext
      include Tree
      include Mapped

      MAGIC = 0xEF53
      SHRINKABLE = %w[ext2 ext3 ext4].freeze # its kinds that a plan may make smaller
      ROOT_INODE = 2
      # ext4's own limits; a superblock beyond them lies.
      LARGEST_LOG_BLOCK = 6
      # mke2fs makes no smaller groups; it bounds their number.
      LEAST_PER_GROUP = 256
      ENCRYPTED = 'encrypted by its owner'
      MODES = { 0x4000 => :directory, 0x8000 => :file, 0xA000 => :symlink }.freeze

      attr_reader :superblock, :block_size

      # @return [Ext, Opaque, nil]
      # @raise [Damaged] where the magic number is right and the rest is not
      def self.recognise(disk)
        return if disk.size < 2048 || disk.read(1024 + 0x38, 2).unpack1('v') != MAGIC

        superblock = ExtSuperblock.read(disk.read(1024, 1024))
        superblock.incompatible_feature?(ExtSuperblock::JOURNAL_DEVICE) ? journal(disk, superblock) : new(disk, superblock)
      end

      # A journal that lies apart from its volume.
      def self.journal(disk, superblock)
        Opaque.new(disk, kind: 'jbd', size: disk.size, block_size: disk.logical_sector, uuid: Guid.from_plain_bytes(superblock.uuid.to_s))
      end
      private_class_method :journal

      def initialize(disk, superblock)
        @disk = disk
        @superblock = superblock
        check_superblock
        @block_size = superblock.block_size
        @groups = ExtGroups.new(disk, superblock)
        @bitmaps = ExtBitmaps.new(disk, superblock, @groups)
        @inodes = {}
      end

      # What the features make it: what ext3 does not know makes an ext4, a journal an ext3.
      def kind
        return 'ext4' if superblock.incompatible.anybits?(~ExtSuperblock::OLD_INCOMPATIBLE) ||
                         superblock.read_only_compatible.anybits?(~ExtSuperblock::OLD_READ_ONLY)

        superblock.compatible_feature?(ExtSuperblock::HAS_JOURNAL) ? 'ext3' : 'ext2'
      end

      def label
        text = superblock.label.to_s.unpack1('Z*').force_encoding('UTF-8').scrub
        text unless text.empty?
      end

      def uuid = Guid.from_plain_bytes(superblock.uuid.to_s)
      def size = superblock.block_count * block_size

      # Unmounted in order (bit 0), without known errors (bit 1), with no files
      # that wait to be removed, and with nothing left in the journal.
      def clean? = superblock.state.anybits?(1) && superblock.state.nobits?(2) && !journal_waits? && !orphans?

      def map = 'the block bitmaps'

      # @return [Boolean] whether more than some block groups is doubtful
      def kept_whole? = doubts.any? && proof.whole

      # @return [Time, nil] when it was last mounted: of a system, when it was last started
      def mounted_at = superblock.mounted_at.zero? ? nil : Time.at(superblock.mounted_at)

      # @return [Time, nil] when something was last written to it
      def written_at = superblock.written_at.zero? ? nil : Time.at(superblock.written_at)

      def resizer = ExtResizer
      def judge = ['e2fsck -fn', %w[e2fsck -f -n]]
      def editor(path) = ExtEditor.new(path, self)
      def fresh_identity = uuid && SecureRandom.uuid
      def least_sector = block_size
      def least_size = ExtLimits.new(self, @disk).limits
      def only_waits? = superblock.incompatible_feature?(ExtSuperblock::RECOVER)

      private

      def proof = @proof ||= ExtProof.new(@disk, superblock, @groups, @bitmaps)
      def find_doubts = proof.doubts
      def mapped_extents(&) = block_given? ? Runs.merged(@bitmaps.each_run, block_size, &) : enum_for(:mapped_extents)

      def orphans? = superblock.last_orphan.positive? || superblock.read_only_feature?(ExtSuperblock::ORPHANS_PRESENT)
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
        yield @groups.inode_offset(entry.ref), superblock.inode_bytes
        inode(entry.ref).extents_on_disk { |block, count| yield block * block_size, count * block_size }
      end

      def child(parent, name, number)
        node = inode(number)
        Entry.new(name:, path: child_path(parent, name), type: MODES.fetch(node.mode & 0xF000, :other),
                  size: node.size, modified_at: node.modified_at, ref: number, note: (ENCRYPTED if node.encrypted?))
      end

      def file_pieces(entry, &) = inode(entry.ref).each_piece(&)
    end
  end
end
