# frozen_string_literal: true

require 'bindata'

module Evrel
  module Volume
    # The superblock of ext2, ext3 and ext4, 1,024 bytes at byte 1,024 of the
    # volume (struct ext4_super_block; "ext4 Data Structures and Algorithms",
    # section "Super Block").
    class ExtSuperblock < BinData::Record
      endian :little

      uint32 :inode_count
      uint32 :blocks_low
      uint32 :reserved_low
      uint32 :free_blocks_low       # offset 0x0C
      uint32 :free_inodes
      uint32 :first_data_block      # offset 0x14
      uint32 :log_block_size
      uint32 :log_cluster_size      # offset 0x1C
      uint32 :blocks_per_group
      uint32 :clusters_per_group
      uint32 :inodes_per_group      # offset 0x28
      uint32 :mounted_at
      uint32 :written_at            # offset 0x30
      uint16 :mount_count
      uint16 :most_mounts
      uint16 :magic                 # offset 0x38
      uint16 :state
      uint16 :on_error
      uint16 :minor_revision
      uint32 :checked_at            # offset 0x40
      uint32 :check_interval
      uint32 :creator
      uint32 :revision              # offset 0x4C
      uint16 :reserved_uid
      uint16 :reserved_gid
      uint32 :first_inode           # offset 0x54
      uint16 :inode_size
      uint16 :block_group
      uint32 :compatible            # offset 0x5C
      uint32 :incompatible
      uint32 :read_only_compatible
      string :uuid, length: 16      # offset 0x68
      string :label, length: 16
      string :last_mounted, length: 64 # offset 0x88
      uint32 :bitmap_algorithm
      uint8  :preallocated_blocks
      uint8  :preallocated_directory_blocks
      uint16 :reserved_gdt_blocks   # offset 0xCE
      string :journal_uuid, length: 16
      uint32 :journal_inode         # offset 0xE0
      uint32 :journal_device
      uint32 :last_orphan
      array  :hash_seed, type: :uint32, initial_length: 4
      uint8  :hash_version
      uint8  :journal_backup_type
      uint16 :descriptor_size       # offset 0xFE
      uint32 :mount_options
      uint32 :first_meta_group      # offset 0x104
      uint32 :made_at
      array  :journal_blocks, type: :uint32, initial_length: 17
      uint32 :blocks_high           # offset 0x150
      uint32 :reserved_high
      uint32 :free_blocks_high      # offset 0x158
      string :rest_1, length: 12
      uint64 :protection_block      # offset 0x168, of multiple mount protection
      string :rest_2, length: 0xDC
      array  :backup_groups, type: :uint32, initial_length: 2 # offset 0x24C
      string :rest_3, length: 28
      uint32 :checksum_seed # offset 0x270

      # Feature bits, each in the field that is named behind it.
      HAS_JOURNAL = 0x4       # compatible
      SPARSE_SUPER2 = 0x200   # compatible
      RECOVER = 0x4           # incompatible: the journal waits to be replayed
      JOURNAL_DEVICE = 0x8    # incompatible
      META_BG = 0x10          # incompatible
      BITS_64 = 0x80          # incompatible
      MOUNT_PROTECTION = 0x100 # incompatible
      CHECKSUM_SEED = 0x2000  # incompatible
      INLINE_DATA = 0x8000    # incompatible
      OLD_INCOMPATIBLE = 0x16 # what ext3 knows: file types, recovery, meta groups
      OLD_READ_ONLY = 0x7     # and: sparse superblocks, large files, trees of names
      KNOWN_INCOMPATIBLE = 0x3E7DE # of <linux/ext4>: all but compression, directory data and what came later
      SPARSE_SUPER = 0x1      # read_only_compatible
      GDT_CHECKSUM = 0x10     # read_only_compatible
      BIGALLOC = 0x200        # read_only_compatible
      METADATA_CHECKSUM = 0x400 # read_only_compatible
      ORPHANS_PRESENT = 0x10000 # read_only_compatible
      KNOWN_READ_ONLY = 0x1B77F # all but snapshots, replicas, shared blocks and what came later

      # Fields of a record are slow to ask for, and these are asked for all the time.
      def block_size = @block_size ||= 1024 << log_block_size

      # @return [Integer] the first block that belongs to a group
      def first_block = @first_block ||= first_data_block.to_i

      def compatible_feature?(bit) = compatible.anybits?(bit)
      def incompatible_feature?(bit) = incompatible.anybits?(bit)
      def read_only_feature?(bit) = read_only_compatible.anybits?(bit)
      # @return [Integer] bytes of one inode
      def inode_bytes = @inode_bytes ||= revision.zero? ? 128 : inode_size.to_i

      # @return [Boolean] whether descriptors carry a checksum, and say what was never written
      def lazy? = read_only_compatible.anybits?(GDT_CHECKSUM | METADATA_CHECKSUM)

      # @return [Integer] blocks that are free, as it counts them
      def free_blocks = free_blocks_low | (incompatible_feature?(BITS_64) ? free_blocks_high << 32 : 0)

      def block_count = @block_count ||= blocks_low | (incompatible_feature?(BITS_64) ? blocks_high << 32 : 0)
    end
  end
end
