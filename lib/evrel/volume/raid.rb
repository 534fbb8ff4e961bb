# frozen_string_literal: true

module Evrel
  module Volume
    # Members of a RAID, by the metadata that they carry at their front, at
    # 4 KiB or at their end. All offsets are bytes on the member; what a
    # firmware writes is known by its mark alone (libblkid lists the marks).
    module Raid
      MAGIC = 0xA92B4EFC   # of Linux md (<linux/raid/md_p.h>, MD_SB_MAGIC)
      OLD_UNIT = 64 * KIB  # md 0.90 lies in the last whole unit but one
      TAIL = 136 * KIB     # holds all that lies at the end, but for one firmware's
      LEAST = 64 * KIB     # smaller ones carry none

      # Marks of firmwares at the end: how many sectors of 512 bytes before it, offset there, mark.
      AT_END = [
        [1, 0, 'de11de11'], [257, 0, 'de11de11'],
        [2, 0, '496e74656c205261696420'], [2, 0, '4e5649444941'],
        [1, 0, '245849444524'], [1, 96, '0000002f'],
        [11, 0, 'f316785a'], [11, 0, 'fd16785a'],
        *[16, 63, 255, 256, 399, 591, 675, 735, 911, 951, 974, 991, 3087].map do |sector|
          [sector, 0, '50726f6d69736520546563686e6f6c6f6779']
        end
      ].map { |sector, offset, hex| [sector, offset, [hex].pack('H*')] }.freeze
      AT_FRONT = %w[f016785a fd16785a].map { |hex| [4640, [hex].pack('H*')] }.freeze

      module_function

      # What it is called, its place and, where it has them, its identity and name.
      Found = Struct.new(:kind, :at, :uuid, :label)

      # @param disk [Disk] a whole disk or a partition
      # @return [Opaque, nil]
      # @raise [Unreadable]
      def recognise(disk)
        found = find(disk) or return

        Opaque.new(disk, kind: found.kind, size: disk.size, block_size: disk.logical_sector, uuid: found.uuid, label: found.label)
      end

      # @return [Integer, nil] byte at which a member has its metadata
      def at(disk) = find(disk)&.at

      def find(disk)
        return if disk.size < LEAST

        tail = Tail.new(disk, TAIL)
        newer(disk, tail) || older(disk, tail) || firmware(disk, tail)
      end

      # struct mdp_superblock_1: magic 0, version 4, UUID 16, name 32, its own place at 144 in sectors.
      def newer(disk, tail)
        sectors = disk.size / 512
        [0, 4096, ((sectors - 16) & ~7) * 512].each do |at|
          magic, version, uuid, name, place = tail.read(at, 256).unpack('V2@16a16a32@144Q<')
          next unless magic == MAGIC && version == 1 && place == at / 512

          return Found.new('linux-raid', at, Guid.from_plain_bytes(uuid), name.unpack1('Z*').force_encoding('UTF-8').scrub)
        end
        nil
      end

      # struct mdp_superblock_s: magic 0, version 4 and 8, UUID 20 and 52; in the byte order of its maker.
      def older(disk, tail)
        at = ((disk.size / OLD_UNIT) - 1) * OLD_UNIT
        bytes = tail.read(at, 128)
        %w[V N].each do |order|
          magic, major, minor, first, *rest = bytes.unpack("#{order}3@20#{order}@52#{order}3")
          return Found.new('linux-raid', at, Guid.from_plain_bytes([first, *rest].pack('N4'))) if
            magic == MAGIC && major.zero? && minor == 90
        end
        nil
      end

      def firmware(disk, tail)
        sectors = disk.size / 512
        places = AT_FRONT + AT_END.map { |sector, offset, mark| [((sectors - sector) * 512) + offset, mark] }
        at, = places.find { |place, mark| place.positive? && tail.read(place, mark.bytesize) == mark }
        at ||= (sectors - 1) * 512 if summed?(tail.read((sectors - 1) * 512, 512))
        Found.new('firmware-raid', at) if at
      end

      # Two firmwares have short marks: one has a checksum over 50 bytes behind them, one a second mark;
      # one has nothing but two letters, in a sector that is else nearly empty.
      def summed?(sector)
        mark, version = sector.unpack('vC')
        (mark == 0xAA55 && version <= 2 && sector.byteslice(0, 50).sum(8) == sector.getbyte(50)) ||
          (sector.start_with?("\x37\xFC\x4D\x1E".b) && sector.include?('DPTM')) ||
          (sector.start_with?('JM') && sector.byteslice(0, 128).unpack('v*').sum & 0xFFFF <= 1)
      end
      private_class_method :find, :newer, :older, :firmware, :summed?
    end
  end
end
