# frozen_string_literal: true

module Evrel
  module Table
    # Makes the records of an MBR for given partitions: the master boot record
    # and the chain of extended boot records in front of the logical ones.
    class MbrBuilder
      # Behind the last cylinder that 10 bits can count: "see the LBA".
      CHS_BEYOND = "\xFE\xFF\xFF".b
      HEADS = 255
      TRACK = 63

      # @param sector [Integer] bytes per LBA
      # @param signature [Integer] the disk's identity
      # @param partitions [Array<Partition>] numbers 1 to 4, and from 5 on the logical ones in the order of the disk
      # @param boot_code [String] the first 440 bytes
      # @param disk_size [Integer] bytes
      # @param extended_type [String] "0x05" or "0x0f"
      # @param gap [Integer] sectors in front of a logical partition in which its record lies, where there is so much room
      def initialize(sector:, signature:, partitions:, boot_code:, disk_size:, extended_type: '0x0f', gap: 2048)
        @sector = sector
        @signature = signature
        @boot_code = boot_code
        @disk_size = disk_size
        @extended_type = extended_type
        @gap = gap
        @primary, @logical = partitions.partition { |part| part.number <= 4 }
        @logical = @logical.sort_by(&:first_lba)
      end

      # An entry of 16 bytes.
      # @param part [Partition]
      # @param base [Integer] LBA from which its first sector is counted
      # @return [String]
      def self.entry(part, base: 0) = fields(part.attributes & Mbr::ACTIVE, part.type, part.first_lba, part.last_lba, base:)

      # status, CHS, type, CHS, first sector from +base+, number of sectors
      def self.fields(status, type, first, last, base: 0)
        [status].pack('C') + chs(first) + [Integer(type, 16)].pack('C') + chs(last) + [first - base, last - first + 1].pack('V2')
      end

      # Head; sector in the low six bits, cylinder in ten (LBA translation with 255 heads of 63 sectors).
      def self.chs(lba)
        cylinder, rest = lba.divmod(HEADS * TRACK)
        return CHS_BEYOND if cylinder > 1023

        head, sector = rest.divmod(TRACK)
        [head, (sector + 1) | ((cylinder >> 2) & 0xC0), cylinder & 0xFF].pack('C3')
      end
      private_class_method :fields, :chs

      # @return [Mbr]
      # @raise [DoesNotFit] where four entries, or the room in front of a logical partition, are not enough
      def build
        @extended = container if @logical.any?
        Mbr.new(sector: @sector, signature: @signature, partitions: [*@primary.sort_by(&:number), *@logical], extended: @extended,
                disk_size: @disk_size, records: [Mbr::Record.new(0, master), *chain])
      end

      private

      def container
        number = ((1..4).to_a - @primary.map(&:number)).first or
          raise DoesNotFit.new('an MBR has four entries: none is left for the extended partition', where: 'MBR')

        Mbr::Extended.new(number:, type: @extended_type, first_lba: places.first, last_lba: @logical.last.last_lba)
      end

      # Where the record of each logical partition lies, LBA.
      def places
        @places ||= begin
          floor = @primary.map(&:last_lba).select { |last| last < @logical.first.first_lba }.max || 0
          @logical.map do |part|
            at = [part.first_lba - @gap, floor + 1].max
            raise DoesNotFit.new("there is no room for a record in front of partition #{part.number}", where: "partition #{part.number}") if
              at >= part.first_lba

            floor = part.last_lba
            at
          end
        end
      end

      def master
        bytes = @boot_code.byteslice(0, 440).ljust(440, "\0".b) + [@signature].pack('V') + "\0\0".b
        entries = Array.new(4) { |index| entry_of(index + 1) }
        seal(bytes + entries.join)
      end

      def entry_of(number)
        return link(@extended.first_lba, @extended.last_lba, type: @extended.type) if @extended&.number == number

        part = @primary.find { |one| one.number == number } or return "\0".b * 16
        MbrBuilder.entry(part)
      end

      # Each record counts its own partition from itself, and the next record from the start of the container.
      def chain
        @logical.each_with_index.map do |part, index|
          at = places[index]
          own = MbrBuilder.entry(part, base: at)
          following = @logical[index + 1]
          rest = following ? link(places[index + 1], following.last_lba, base: places.first) : "\0".b * 16
          Mbr::Record.new(at * @sector, seal(("\0".b * Mbr::ENTRIES) + own + rest))
        end
      end

      def link(first, last, type: '0x05', base: 0) = MbrBuilder.send(:fields, 0, type, first, last, base:)

      def seal(bytes) = (bytes.ljust(510, "\0".b) + Mbr::SIGNATURE).ljust(@sector, "\0".b)
    end
  end
end
