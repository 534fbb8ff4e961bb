# frozen_string_literal: true

module Evrel
  module Volume
    # Recognises the file systems that Opaque stands for, each from its
    # superblock. Offsets are bytes on the volume.
    module Signatures
      ISO_AT = 32_768   # ECMA-119: the first volume descriptor is in sector 16 of 2,048 bytes
      BTRFS_AT = 65_536 # struct btrfs_super_block
      EXFAT_ROOT = 16   # clusters of the root directory in which a label is looked for

      module_function

      # @param disk [Disk]
      # @return [Opaque, nil]
      # @raise [Damaged]
      def recognise(disk) = %i[exfat xfs btrfs luks iso9660].lazy.filter_map { |kind| send(kind, disk) }.first

      # exFAT file system specification, section 3.1: name at 3, length at 72
      # (8 bytes, sectors), serial at 100, sector and cluster shifts at 108.
      def exfat(disk)
        return unless at?(disk, 3, 'EXFAT   ')

        head = disk.read(0, 512)
        length, fat, _, heap, _, root, serial, sector, cluster = head.unpack('@72Q<@80V5@100V@108CC')
        unless sector.between?(9, 12) && cluster <= 25 - sector
          raise Damaged.new("exFAT with sectors of 2^#{sector} and clusters of 2^#{cluster} of them", where: 'boot sector')
        end

        label = exfat_label(disk, fat << sector, heap << sector, 1 << (sector + cluster), root)
        Opaque.new(disk, kind: 'exfat', size: length << sector, block_size: 1 << (sector + cluster), label:,
                         uuid: format('%<high>04X-%<low>04X', high: serial >> 16, low: serial & 0xFFFF))
      end

      # Entry 0x83 of the root directory: number of characters, then UTF-16.
      def exfat_label(disk, fat, heap, size, cluster)
        EXFAT_ROOT.times do
          return if cluster < 2

          bytes = disk.read(heap + ((cluster - 2) * size), size)
          found = (0...size).step(32).find { |at| bytes.getbyte(at) == 0x83 }
          return utf16(bytes.byteslice(found + 2, bytes.getbyte(found + 1).clamp(0, 11) * 2)) if found

          cluster = disk.read(fat + (cluster * 4), 4).unpack1('V')
        end
        nil
      rescue OutOfRange
        raise Damaged.new('exFAT with a root directory outside of it', where: 'boot sector')
      end

      # struct xfs_dsb, big-endian: block size 4, blocks 8, UUID 32, label 108, free blocks 144.
      def xfs(disk)
        return unless at?(disk, 0, 'XFSB')

        block, blocks, uuid, label, free = disk.read(0, 512).unpack('@4NQ>@32a16@108Z12@144Q>')
        raise Damaged.new("XFS with blocks of #{block} bytes", where: 'superblock') unless power_of_two?(block, 512, 65_536)

        Opaque.new(disk, kind: 'xfs', size: blocks * block, block_size: block, label: text(label), uuid: Guid.from_plain_bytes(uuid),
                         used_bytes: (blocks - free) * block)
      end

      # UUID 0x20, magic 0x40, used 0x78, sector size 0x90, size of this device 0xD1, label 0x12B.
      def btrfs(disk)
        return unless at?(disk, BTRFS_AT + 0x40, '_BHRfS_M')

        uuid, used, sector, size, label = disk.read(BTRFS_AT, 4096).unpack('@32a16@120Q<@144V@209Q<@299Z256')
        raise Damaged.new("Btrfs with sectors of #{sector} bytes", where: 'superblock') unless power_of_two?(sector, 512, 65_536)

        Opaque.new(disk, kind: 'btrfs', size:, block_size: sector, label: text(label), uuid: Guid.from_plain_bytes(uuid), used_bytes: used)
      end

      # LUKS on-disk format: version 6 (big-endian), label 24 (version 2), UUID 168.
      def luks(disk)
        return unless at?(disk, 0, "LUKS\xBA\xBE".b)

        version, label, uuid = disk.read(0, 512).unpack('@6n@24Z48@168Z40')
        Opaque.new(disk, kind: "luks#{version}", size: disk.size, block_size: 512, label: (text(label) if version == 2), uuid: text(uuid))
      end

      # Primary volume descriptor: identifier 40 (32 characters), blocks 80, bytes per block 128.
      def iso9660(disk)
        return unless at?(disk, ISO_AT, "\x01CD001".b)

        label, blocks, block = disk.read(ISO_AT, 2048).unpack('@40a32@80V@128v')
        raise Damaged.new("ISO 9660 with blocks of #{block} bytes", where: 'volume descriptor') unless power_of_two?(block, 512, 2048)

        Opaque.new(disk, kind: 'iso9660', size: blocks * block, block_size: block, label: text(label).strip)
      end

      def at?(disk, offset, magic)
        offset + magic.bytesize <= disk.size && disk.size >= offset + 512 && disk.read(offset, magic.bytesize) == magic.b
      end

      def power_of_two?(number, least, most) = number.between?(least, most) && number.nobits?(number - 1)
      def text(bytes) = bytes.dup.force_encoding('UTF-8').scrub
      def utf16(bytes) = bytes.force_encoding('UTF-16LE').encode('UTF-8', invalid: :replace, undef: :replace)
      private_class_method :exfat, :exfat_label, :xfs, :btrfs, :luks, :iso9660, :at?, :power_of_two?, :text, :utf16
    end
  end
end
