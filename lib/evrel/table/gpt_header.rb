# frozen_string_literal: true

require 'bindata'

module Evrel
  module Table
    # GPT header, UEFI specification 2.10, table 5-5.
    class GptHeader < BinData::Record
      endian :little

      string :signature, length: 8           # offset 0, "EFI PART"
      uint32 :revision, initial_value: 0x0001_0000
      uint32 :header_size, initial_value: 92 # offset 12
      uint32 :header_crc                     # offset 16, over header_size bytes with this field as zero
      uint32 :reserved
      uint64 :my_lba                         # offset 24
      uint64 :alternate_lba
      uint64 :first_usable_lba
      uint64 :last_usable_lba
      string :disk_guid, length: 16          # offset 56
      uint64 :entries_lba                    # offset 72
      uint32 :entry_count
      uint32 :entry_size
      uint32 :entries_crc                    # offset 88
    end
  end
end
