# frozen_string_literal: true

module Evrel
  module Image
    # What a file is, from its first (and for VHD also its last) bytes; its name
    # says nothing.
    module Format
      # Bytes of the head that decide: a raw disk's table and the superblocks of
      # most file systems lie in it.
      HEAD = 72 * KIB
      # Smaller files hold no disk.
      LEAST_RAW = 64 * KIB

      PACKED = { 'gzip' => "\x1F\x8B".b, 'zstd' => "\x28\xB5\x2F\xFD".b, 'xz' => "\xFD7zXZ\0".b, 'bzip2' => 'BZh' }.freeze
      # Formats for qemu-nbd: its name for them → magic and offset.
      FOREIGN = { 'vhdx' => ['vhdxfile', 0], 'vmdk' => ['KDMV', 0], 'vpc' => ['conectix', 0], 'vdi' => ["\x7F\x10\xDA\xBE".b, 0x40] }.freeze
      # Formats that hold a disk and are not read here: the word of qemu-img → magic and offset (block/ of QEMU).
      NOT_READ = { 'qcow' => ["QFI\xFB\0\0\0\x01", 0], 'qed' => ["QED\0", 0], 'vmdk of version 3' => ['COWD', 0],
                   'parallels' => ['WithoutFreeSpace', 0], 'parallels, extended' => ['WithouFreSpacExt', 0],
                   'bochs' => ['Bochs Virtual HD Image', 0], 'cloop' => ["#!/bin/sh\n#V2.0 Format\nmodprobe cloop", 0] }
                 .transform_values { |magic, offset| [magic.b, offset] }.freeze
      DMG_TRAILER = 512 # bytes at the end, which begin with a mark
      VMDK_TEXT = '# Disk DescriptorFile'
      # A fixed VHD is a raw disk with a footer of 512 bytes.
      VHD_FOOTER = 512

      module_function

      # @param source [Disk] the file's bytes
      # @return [String] "qcow2", "gzip", "zstd", "xz", "bzip2", "vhdx", "vmdk", "vpc", "vdi" or "raw"
      def of(source)
        head = source.read(0, [HEAD, source.size].min)
        return 'qcow2' if head.start_with?(Qcow2Header::MAGIC)

        packed(head) || foreign(head) || (fixed_vhd?(source) ? 'vpc' : 'raw')
      end

      # @param source [Disk] the file's bytes
      # @return [String, nil] the name of a format that holds a disk and is not read here
      def not_read(source)
        head = source.read(0, [64, source.size].min)
        found, = NOT_READ.find { |_, (magic, offset)| head.byteslice(offset, magic.bytesize) == magic }
        found || ('dmg' if source.size > DMG_TRAILER && source.read(source.size - DMG_TRAILER, 4) == 'koly')
      end

      def packed(head) = PACKED.find { |_, magic| head.start_with?(magic) }&.first

      def foreign(head)
        return 'vmdk' if head.start_with?(VMDK_TEXT)

        FOREIGN.find { |_, (magic, offset)| head.byteslice(offset, magic.bytesize) == magic.b }&.first
      end

      def fixed_vhd?(source)
        source.size > VHD_FOOTER && source.read(source.size - VHD_FOOTER, 8) == 'conectix'
      end
      private_class_method :packed, :foreign, :fixed_vhd?

      # @param kind [String] as `of` gives it
      # @return [String] for people
      def name(kind)
        case kind
        when *PACKED.keys then "raw, #{kind}"
        when 'vpc' then 'VHD'
        when 'vhdx', 'vmdk', 'vdi' then kind.upcase
        when 'evrel-image' then 'native'
        else kind
        end
      end
    end
  end
end
