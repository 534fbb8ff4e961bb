# frozen_string_literal: true

module Evrel
  module Volume
    # What holds other volumes, encrypted, joined or cached: it is looked for
    # before any file system below it, recognised by name, label and identity,
    # and kept whole. Offsets are bytes on the volume.
    module Containers
      BCACHE = ['c68573f64e1a45ca8265f57f48ba6d81'].pack('H*').freeze # struct cache_sb, magic at 24
      BCACHE_AT = 4096
      LVM_SECTORS = 4 # the label is in one of the first
      DRBD = [0x8374026B, 0x8374026C, 0x8374026D].freeze # struct md_on_disk: magic at 60, big-endian
      DRBD_AT = 4096 # before the end
      ZFS_LABEL = 256 * KIB # two at the front, two at the end
      ZFS_NAMES = 16 * KIB  # within a label: what it is called
      ZFS_BLOCKS = 128 * KIB # within a label: the uberblocks, 1 KiB each or more
      ZFS_MAGIC = [[0x00BAB10C].pack('Q<'), [0x00BAB10C].pack('Q>')].freeze
      ZFS_LEAST = 32 * MIB
      PLAIN = { 'snapshot' => 'SnAp', 'verity' => "verity\0\0", 'integrity' => "integrt\0" }.freeze # at byte 0

      module_function

      # @param disk [Disk]
      # @return [Opaque, nil]
      # @raise [Damaged, Unreadable]
      def recognise(disk)
        return if disk.size < 4096

        %i[raid bcache drbd lvm plain luks bitlocker zfs].lazy.filter_map { |kind| send(kind, disk) }.first
      end

      def raid(disk) = Raid.recognise(disk)

      # UUID at 40, label at 72; its own place in sectors at 8.
      def bcache(disk)
        return if disk.size < 2 * BCACHE_AT

        place, magic, uuid, label = disk.read(BCACHE_AT, 512).unpack('@8Q<@24a16a16@72Z32')
        named(disk, 'bcache', uuid: Guid.from_plain_bytes(uuid), label: Volume.text(label)) if magic == BCACHE && place == BCACHE_AT / 512
      end

      # struct md_on_disk: its identity at 40.
      def drbd(disk)
        return if disk.size < 64 * KIB

        identity, magic = disk.read(disk.size - DRBD_AT, 128).unpack('@40Q>@60N')
        named(disk, 'drbd', uuid: format('%x', identity)) if DRBD.include?(magic)
      end

      # struct label_header: LABELONE, its sector at 8, type at 24; then the identity of 32 letters.
      def lvm(disk)
        bytes = disk.read(0, LVM_SECTORS * 512)
        LVM_SECTORS.times do |sector|
          mark, place, type, uuid = bytes.unpack("@#{sector * 512}a8Q<@#{(sector * 512) + 24}a8a32")
          next unless mark == 'LABELONE' && type == 'LVM2 001' && place == sector

          return named(disk, 'lvm', uuid: Volume.text(uuid).unpack('a6a4a4a4a4a4a6').join('-'))
        end
        # The first version: HM, its version at 2, the identity at 44.
        version, uuid = bytes.unpack('@2v@44a32')
        named(disk, 'lvm', uuid: Volume.text(uuid).delete("\0")) if bytes.start_with?('HM') && version.between?(1, 2)
      end

      def plain(disk)
        head = disk.read(0, 512)
        kind, = PLAIN.find { |_, mark| head.start_with?(mark) }
        uuid = Guid.from_plain_bytes(head.byteslice(16, 16)) if kind == 'verity'
        named(disk, kind, uuid:) if kind
      end

      # LUKS on-disk format: version 6 (big-endian), label 24 (version 2), UUID 168.
      def luks(disk)
        head = disk.read(0, 512)
        return unless head.start_with?("LUKS\xBA\xBE".b)

        version, label, uuid = head.unpack('@6n@24Z48@168Z40')
        named(disk, "luks#{version}", label: (Volume.text(label) if version == 2), uuid: Volume.text(uuid))
      end

      # Its own mark in the boot sector; or a small FAT that only says how to open it, with the place of the
      # real metadata at 440, which begins with that mark.
      def bitlocker(disk)
        mark = '-FVE-FS-'
        head = disk.read(0, 512)
        at = head.unpack1('@440Q<')
        return named(disk, 'bitlocker') if head.byteslice(3, 8) == mark
        return unless head.byteslice(3, 8) == 'MSWIN4.1' && at.positive? && at + 512 <= disk.size

        named(disk, 'bitlocker') if disk.read(at, 8) == mark
      end

      def zfs(disk)
        return if disk.size < ZFS_LEAST

        ends = disk.size / ZFS_LABEL * ZFS_LABEL
        at = [0, ZFS_LABEL, ends - (2 * ZFS_LABEL), ends - ZFS_LABEL].find { |label| zfs_label?(disk, label) } or return
        names = disk.read(at + ZFS_NAMES, 4096)
        named(disk, 'zfs', label: zfs_name(names), uuid: zfs_guid(names))
      end

      # Names and numbers are pairs in the form of XDR: length of the name, name; then type, count and value.
      def zfs_label?(disk, label)
        names = disk.read(label + ZFS_NAMES, 512)
        return true if names.include?('version') && names.include?("\0\0\0\x04name")

        blocks = disk.read(label + ZFS_BLOCKS, ZFS_LABEL - ZFS_BLOCKS)
        (0...blocks.bytesize).step(KIB).count { |at| ZFS_MAGIC.include?(blocks.byteslice(at, 8)) } >= 4
      end

      def zfs_name(names)
        at = names.index("\0\0\0\x04name") or return
        length = names.unpack1("@#{at + 16}N")
        Volume.text(names.byteslice(at + 20, length)) if length.between?(1, 255)
      end

      def zfs_guid(names)
        at = names.index("\0\0\0\x09pool_guid")
        names.unpack1("@#{at + 24}Q>").to_s if at
      end

      def named(disk, kind, label: nil, uuid: nil)
        Opaque.new(disk, kind:, size: disk.size, block_size: disk.logical_sector, label:, uuid:)
      end

      private_class_method :raid, :bcache, :drbd, :lvm, :plain, :luks, :bitlocker, :zfs, :zfs_label?, :zfs_name, :zfs_guid, :named
    end
  end
end
