# frozen_string_literal: true

require 'bindata'

module Evrel
  module Volume
    # Boot sector of NTFS (layout.h of ntfs-3g, NTFS_BOOT_SECTOR).
    class NtfsBootSector < BinData::Record
      SIGNATURE = 'NTFS    '

      endian :little

      string :jump, length: 3
      string :oem, length: 8                # offset 3
      uint16 :sector_size                   # offset 11
      uint8  :sectors_per_cluster           # offset 13, above 0x80: a power of two, see cluster_size
      string :unused, length: 14
      uint32 :hidden_sectors                # offset 28
      string :unused_too, length: 8
      uint64 :sector_count                  # offset 40, without the copy of this sector behind the last
      uint64 :mft_cluster                   # offset 48
      uint64 :mirror_cluster                # offset 56
      int8   :record_clusters               # offset 64, below zero: a power of two in bytes
      string :unused_3, length: 3
      int8   :index_clusters                # offset 68, the same
      string :unused_4, length: 3
      uint64 :serial                        # offset 72

      # @return [Integer] bytes
      def cluster_size
        factor = sectors_per_cluster > 0x80 ? 1 << (256 - sectors_per_cluster) : sectors_per_cluster.to_i
        factor * sector_size
      end

      # @return [Integer] bytes of one record of the MFT
      def record_size = sized(record_clusters)

      # @return [Integer] bytes of one index block
      def index_size = sized(index_clusters)

      private

      def sized(value) = value.negative? ? 1 << -value : value * cluster_size
    end
  end
end
