# frozen_string_literal: true

module Evrel
  module Volume
    # Recognises the file systems that Opaque stands for, each from its
    # superblock. Offsets are bytes on the volume.
    module Signatures
      BTRFS_AT = 65_536 # struct btrfs_super_block
      EXFAT_ROOT = 16   # clusters of the root directory in which a label is looked for
      # Kind, offset and mark (libblkid lists them).
      OTHERS = [
        ['f2fs', 1024, "\x10\x20\xF5\xF2"], ['jfs', 32_768, 'JFS1'], ['reiserfs', 65_588, 'ReIsEr'], ['reiserfs', 8244, 'ReIsEr'],
        ['reiser4', 65_536, 'ReIsEr4'], ['hfsplus', 1024, "H+\0\x04"], ['hfsplus', 1024, "HX\0\x05"],
        ['ufs', 9564, "\x54\x19\x01\x00"], ['ufs', 9564, "\x00\x01\x19\x54"], ['ufs', 66_908, "\x19\x01\x54\x19"],
        ['ufs', 66_908, "\x54\x19\x01\x00"], ['nilfs2', 1024, "\x02\0\0\0\0\0\x34\x34"], ['squashfs', 0, 'hsqs'], ['squashfs', 0, 'sqsh'],
        ['erofs', 1024, "\xE2\xE1\xF5\xE0"], ['gfs2', 65_536, "\x01\x16\x19\x70"], ['ocfs2', 1024, 'OCFSV2'], ['ocfs2', 2048, 'OCFSV2'],
        ['ocfs2', 4096, 'OCFSV2'], ['ocfs2', 8192, 'OCFSV2'], ['apfs', 32, 'NXSB'], ['refs', 0, "\0\0\0ReFS\0"], ['befs', 544, '1SFB'],
        ['befs', 32, '1SFB'], ['befs', 32, 'BFS1'], ['befs', 544, 'BFS1'], ['cramfs', 0, "\x45\x3D\xCD\x28"], ['romfs', 0, '-rom1fs-'],
        ['hpfs', 8192, "\x49\xE8\x95\xF9"], ['vmfs', 2_097_152, "\x5E\xF1\xAB\x2F"]
      ].map { |kind, offset, magic| [kind, offset, magic.b] }.freeze

      module_function

      # @param disk [Disk]
      # @return [Opaque, nil]
      # @raise [Damaged]
      def recognise(disk) = %i[exfat xfs btrfs others].lazy.filter_map { |kind| send(kind, disk) }.first

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
        Exfat.new(disk, kind: 'exfat', size: length << sector, block_size: 1 << (sector + cluster), label:, least_sector: 1 << sector,
                        uuid: format('%<high>04X-%<low>04X', high: serial >> 16, low: serial & 0xFFFF))
      end

      # Entry 0x83 of the root directory: number of characters, then UTF-16.
      def exfat_label(disk, fat, heap, size, cluster)
        EXFAT_ROOT.times do
          return if cluster < 2

          bytes = disk.read(heap + ((cluster - 2) * size), size)
          found = (0...size).step(32).find { |at| bytes.getbyte(at) == 0x83 }
          return Utf16.text(bytes.byteslice(found + 2, bytes.getbyte(found + 1).clamp(0, 11) * 2)) if found

          cluster = disk.read(fat + (cluster * 4), 4).unpack1('V')
        end
        nil
      rescue OutOfRange
        raise Damaged.new('exFAT with a root directory outside of it', where: 'boot sector')
      end

      # struct xfs_dsb, big-endian: block size 4, blocks 8, UUID 32, sector size 102, label 108, free blocks 144.
      def xfs(disk)
        return unless at?(disk, 0, 'XFSB')

        block, blocks, uuid, sector, label, free = disk.read(0, 512).unpack('@4NQ>@32a16@102n@108Z12@144Q>')
        raise Damaged.new("XFS with blocks of #{block} bytes", where: 'superblock') unless power_of_two?(block, 512, 65_536)

        Opaque.new(disk, kind: 'xfs', size: blocks * block, block_size: block, label: Volume.text(label), uuid: Guid.from_plain_bytes(uuid),
                         used_bytes: (blocks - free) * block, least_sector: sector)
      end

      # UUID 0x20, magic 0x40, used 0x78, sector size 0x90, size of this device 0xD1, label 0x12B.
      def btrfs(disk)
        return unless at?(disk, BTRFS_AT + 0x40, '_BHRfS_M')

        uuid, used, sector, size, label = disk.read(BTRFS_AT, 4096).unpack('@32a16@120Q<@144V@209Q<@299Z256')
        raise Damaged.new("Btrfs with sectors of #{sector} bytes", where: 'superblock') unless power_of_two?(sector, 512, 65_536)

        Opaque.new(disk, kind: 'btrfs', size:, block_size: sector, label: Volume.text(label), uuid: Guid.from_plain_bytes(uuid),
                         used_bytes: used)
      end

      # File systems of which only the name is told.
      def others(disk)
        kind, = OTHERS.find { |_, offset, magic| at?(disk, offset, magic) }
        Opaque.new(disk, kind:, size: disk.size, block_size: disk.logical_sector) if kind
      end

      def at?(disk, offset, magic)
        offset + magic.bytesize <= disk.size && disk.size >= offset + 512 && disk.read(offset, magic.bytesize) == magic.b
      end

      def power_of_two?(number, least, most) = number.between?(least, most) && number.nobits?(number - 1)
      private_class_method :exfat, :exfat_label, :xfs, :btrfs, :others, :at?, :power_of_two?
    end
  end
end
