# frozen_string_literal: true

require 'zlib'

module Evrel
  module Table
    # A GUID partition table (UEFI specification 2.10, chapter 5.3).
    #
    #   gpt = Gpt.read(disk)           # nil where the disk has none
    #   gpt.partitions.map(&:type_name)
    #   gpt.for_disk(bytes).write(other)
    #
    # Both copies are read; the backup is used where the primary is broken, and
    # `findings` says so.
    class Gpt
      SIGNATURE = 'EFI PART'
      SECTORS = [512, 4096].freeze
      ENTRY_COUNT = 128
      ENTRY_SIZE = 128
      # The specification asks for 16,384 bytes at least; a table that claims
      # more than this is not read, however valid its checksum.
      LARGEST_ENTRIES = MIB

      attr_reader :sector, :guid, :first_usable, :last_usable, :partitions, :entry_count, :boot_code, :hybrid, :findings,
                  :source

      # @param sector [Integer] bytes per LBA
      # @param guid [String] the disk's identity
      # @param first_usable [Integer] LBA
      # @param last_usable [Integer] LBA
      # @param partitions [Array<Partition>]
      # @param boot_code [String] the first 440 bytes of LBA 0, carried along
      # @param findings [Array<String>] what was wrong with what was read
      # @param source [Symbol] :primary or :backup
      def initialize(sector:, guid:, first_usable:, last_usable:, partitions:, entry_count: ENTRY_COUNT,
                     boot_code: "\0".b * 440, findings: [], source: :primary)
        @sector = sector
        @guid = guid
        @first_usable = first_usable
        @last_usable = last_usable
        @partitions = partitions
        @entry_count = entry_count
        @boot_code = boot_code
        @findings = findings
        @source = source
      end

      # @param disk [Disk]
      # @return [Gpt, nil]
      # @raise [Damaged] where a GPT is there but neither copy can be trusted
      def self.read(disk) = GptReader.new(disk).read

      def kind = 'gpt'

      # @return [nil] loaders have a partition of their own
      def code_area = nil

      # The same partitions on a disk of another size: the backup copy at its
      # real end.
      # @param size [Integer] bytes of the other disk
      # @return [Gpt]
      # @raise [DoesNotFit] where a partition would leave it
      def for_disk(size)
        last = (size / sector) - entry_sectors - 2
        if (out = partitions.find { |part| part.last_lba > last })
          raise DoesNotFit.new("partition #{out.number} ends #{out.end - ((last + 1) * sector)} bytes " \
                               'behind the last usable sector', where: "partition #{out.number}")
        end
        Gpt.new(sector:, guid:, first_usable:, last_usable: last, partitions:, entry_count:, boot_code:).with_hybrid(hybrid)
      end

      # @param entries [String, nil] of an MBR that is more than protective, see Hybrid
      # @return [Gpt] the same with these in front of it
      def with_hybrid(entries) = dup.tap { |copy| copy.hybrid = entries }

      # Writes the whole table: the backup copy first, the protective MBR and
      # the primary copy in one piece at the end, so that a cut in between
      # leaves a disk without a valid primary table.
      # @param disk [Disk]
      def write(disk)
        pieces(disk.size).each { |offset, bytes| disk.write(offset, bytes) }
        disk.flush
      end

      # @param size [Integer] bytes of the disk that takes the table
      # @return [Array<(Integer, String)>] byte offset and bytes, in the order
      #   in which they are to be written
      def pieces(size)
        last_lba = (size / sector) - 1
        entries = entry_bytes
        backup = entries + header(last_lba, 1, last_lba - entry_sectors, entries)
        primary = protective_mbr(last_lba) + header(1, last_lba, 2, entries) + entries
        [[(last_lba - entry_sectors) * sector, backup], [0, primary]]
      end

      # @return [Integer] sectors that one copy of the entries takes
      def entry_sectors = ((entry_count * ENTRY_SIZE) + sector - 1) / sector

      protected

      attr_writer :hybrid

      private

      def entry_bytes
        bytes = "\0".b * (entry_sectors * sector)
        partitions.each do |part|
          bytes[(part.number - 1) * ENTRY_SIZE, ENTRY_SIZE] = entry(part)
        end
        bytes
      end

      # GPT entry, table 5-6: type, GUID, both LBAs, attributes, 36 UTF-16LE units.
      def entry(part)
        name = part.name.encode('UTF-16LE').b.byteslice(0, 72).ljust(72, "\0".b)
        Guid.to_bytes(part.type) + Guid.to_bytes(part.guid) +
          [part.first_lba, part.last_lba, part.attributes].pack('Q<3') + name
      end

      def header(my_lba, alternate_lba, entries_lba, entries)
        fields = GptHeader.new(
          signature: SIGNATURE, my_lba:, alternate_lba:, first_usable_lba: first_usable, last_usable_lba: last_usable,
          disk_guid: Guid.to_bytes(guid), entries_lba:, entry_count:, entry_size: ENTRY_SIZE,
          entries_crc: Zlib.crc32(entries.byteslice(0, entry_count * ENTRY_SIZE))
        )
        fields.header_crc = Zlib.crc32(fields.to_binary_s)
        fields.to_binary_s.ljust(sector, "\0".b)
      end

      # Protective MBR, table 5-4: one record of type 0xEE over the whole disk,
      # from 0x000200 to the CHS that stands for "too large".
      def protective_mbr(last_lba)
        record = hybrid || [0, 0x00, 0x02, 0x00, 0xEE, 0xFF, 0xFF, 0xFF, 1, [last_lba, 0xFFFF_FFFF].min].pack('C8V2')
        (boot_code.ljust(446, "\0".b) + record).ljust(510, "\0".b).+("\x55\xAA".b).ljust(sector, "\0".b)
      end
    end
  end
end
