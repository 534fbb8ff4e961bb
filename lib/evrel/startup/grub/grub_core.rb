# frozen_string_literal: true

require 'tempfile'

module Evrel
  module Startup
    # GRUB for a BIOS: its code in the first sector of a disk, and its core,
    # which that loads from the gap in front of the first partition, or from
    # anywhere (grub-core/boot/i386/pc: boot.S, diskboot.S, startup_raw.S;
    # include/grub/i386/pc/boot.h and offsets).
    class GrubCore
      # What the code in the first sector says when it fails.
      SIGN = "GRUB \0Geom\0Hard Disk\0Read\0 Error".b
      # And the one at the start of the core.
      CORE_SIGN = "Geom\0Read\0 Error".b
      SECTOR = 512
      KERNEL_SECTOR = 0x5C # in the first sector: number of the core's first one, 64 bits
      BLOCK_LIST = 0x1F4   # in the core's first sector, backwards from here: 64 bits first, 16 bits count, 16 bits segment
      ENTRY = 12
      MOST_ENTRIES = 32
      LARGEST = 16 * MIB
      # In the core behind its first sector: sizes of what is packed, and of what that unpacks to.
      PACKED_SIZE = 0x08
      SIZE = 0x0C
      # How it is packed: raw LZMA with these settings.
      RAW = ['xz', '-dc', '--format=raw', '--lzma1=lc=3,lp=0,pb=2,dict=64KiB'].freeze
      ALIGNED = 16

      # @param boot [String] the first sector of a disk
      # @return [Boolean]
      def self.boots?(boot) = boot.include?(SIGN)

      attr_reader :first, :runs

      # @param disk [Disk]
      # @raise [Damaged] where the first sector points out of the disk
      def initialize(disk)
        @disk = disk
        @first = disk.read(0, SECTOR).byteslice(KERNEL_SECTOR, 8).unpack1('Q<')
        @runs = read_runs
      end

      # @return [Boolean] whether the core is where the first sector says
      def there? = head.include?(CORE_SIGN)

      # @return [Integer] sectors of the core
      def sectors = 1 + runs.sum(&:last)

      # @return [Boolean] whether the list of its blocks says something that can be
      def listed? = runs.any? && runs.all? { |from, count| inside?(from, count) } && sectors * SECTOR <= LARGEST

      # @param from [Integer] byte of the disk
      # @param till [Integer] byte of the disk
      # @return [Boolean] whether all of it lies between these
      def within?(from, till) = ([[first, 1]] + runs).all? { |at, count| at * SECTOR >= from && (at + count) * SECTOR <= till }

      # @param by [Integer] sectors by which it is to lie elsewhere
      # @return [String] the code in the first sector that loads it from there
      def code(by) = @disk.read(0, BiosPath::CODE).tap { |code| code[KERNEL_SECTOR, 8] = [first + by].pack('Q<') }

      # @param by [Integer] sectors by which it is to lie elsewhere
      # @return [Array<(Integer, String)>] byte offset and bytes of its pieces there
      def pieces(by)
        listed = head.dup
        runs.each_with_index { |(from, _), index| listed[BLOCK_LIST - (index * ENTRY), 8] = [from + by].pack('Q<') }
        [[(first + by) * SECTOR, listed], *runs.map { |from, count| [(from + by) * SECTOR, @disk.read(from * SECTOR, count * SECTOR)] }]
      end

      # @return [GrubModules, nil] nil where it cannot be unpacked
      def modules
        packed = body
        stored, size = packed.byteslice(PACKED_SIZE, 8).to_s.unpack('V2')
        return unless size&.between?(1, LARGEST) && stored.between?(1, packed.bytesize)

        starts(packed, stored).each do |at|
          found = unpacked(packed.byteslice(at..), size)&.then { |bytes| GrubModules.find(bytes) }
          return found if found
        end
        nil
      end

      private

      def head = inside?(first, 1) ? @disk.read(first * SECTOR, SECTOR) : ''.b
      def inside?(from, count) = count.positive? && (from + count) * SECTOR <= @disk.size

      def read_runs
        bytes = head
        (0...MOST_ENTRIES).map { |index| bytes.byteslice(BLOCK_LIST - (index * ENTRY), ENTRY).to_s.unpack('Q<vv') }
                          .take_while { |_, count, _| count.to_i.positive? }.map { |from, count, _| [from, count] }
      end

      def body = listed? ? runs.map { |from, count| @disk.read(from * SECTOR, count * SECTOR) }.join : ''.b

      # What is packed lies behind the code that unpacks it, and begins with a zero, as LZMA does. It ends somewhere in
      # the last sector, or in front of what can put damaged sectors right (Reed-Solomon), as long as that is.
      def starts(packed, stored)
        last = packed.bytesize - stored
        (0..last).step(ALIGNED).select { |at| packed.getbyte(at).zero? }.partition { |at| at > last - SECTOR }.flatten
      end

      # @return [String, nil]
      def unpacked(bytes, size)
        Tempfile.create('evrel-core', binmode: true) do |file|
          file.write(bytes)
          file.flush
          # The stream does not say where it ends.
          found = Tool.piped(*RAW, file.path, read: [file.path]) { |_, output, *| output.binmode.read(size) }
          found if found&.bytesize == size
        end
      end
    end
  end
end
