# frozen_string_literal: true

require 'bindata'

module Evrel
  module Volume
    # The BIOS parameter block of a FAT volume ("FAT32 File System
    # Specification" 1.03, pages 9 to 12; ECMA-107 for the older kinds).
    class FatBootSector < BinData::Record
      endian :little

      string :jump, length: 3
      string :oem, length: 8
      uint16 :sector_size          # offset 11
      uint8  :sectors_per_cluster  # offset 13
      uint16 :reserved_sectors
      uint8  :fat_count            # offset 16
      uint16 :root_entries
      uint16 :sectors_16
      uint8  :media
      uint16 :fat_sectors_16       # offset 22
      uint16 :sectors_per_track
      uint16 :heads
      uint32 :hidden_sectors       # offset 28
      uint32 :sectors_32
      uint32 :fat_sectors_32       # offset 36, FAT32 only from here
      uint16 :flags
      uint16 :version
      uint32 :root_cluster         # offset 44
      uint16 :info_sector
      uint16 :backup_sector        # offset 50
    end
  end
end
