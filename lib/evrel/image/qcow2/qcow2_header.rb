# frozen_string_literal: true

require 'bindata'

module Evrel
  module Image
    # qcow2 header, versions 2 and 3 (QEMU, docs/interop/qcow2.txt, "Header").
    class Qcow2Header < BinData::Record
      MAGIC = "QFI\xFB".b
      COMPRESSION_TYPE = 1 << 3 # incompatible feature: the byte at 104 counts
      DIRTY = 1
      EXTERNAL_DATA = 1 << 2
      LUKS = 2 # method of encryption
      EXTENDED_L2 = 1 << 4
      KNOWN_FEATURES = COMPRESSION_TYPE | DIRTY

      endian :big

      string :magic, length: 4, initial_value: MAGIC
      uint32 :version, initial_value: 3
      uint64 :backing_offset          # offset 8
      uint32 :backing_size
      uint32 :cluster_bits            # offset 20
      uint64 :virtual_size            # offset 24
      uint32 :encryption
      uint32 :l1_entries              # offset 36
      uint64 :l1_offset
      uint64 :refcount_table_offset   # offset 48
      uint32 :refcount_table_clusters
      uint32 :snapshot_count          # offset 60
      uint64 :snapshots_offset
      uint64 :incompatible            # offset 72, version 3 only from here
      uint64 :compatible
      uint64 :autoclear
      uint32 :refcount_order, initial_value: 4 # offset 96
      uint32 :header_length, initial_value: 112
      uint8  :compression_type # offset 104: 0 zlib, 1 zstd
      string :padding, length: 7
    end
  end
end
