# frozen_string_literal: true

module Evrel
  module Table
    # A table in the master boot record, with its logical partitions in a chain
    # of extended boot records (UEFI specification 2.10, 5.2.1; the chain as
    # Linux's block/partitions/msdos.c walks it). Answers as Gpt does.
    class Mbr
      SIGNATURE = "\x55\xAA".b  # offset 510
      ENTRIES = 446             # offset of four entries of 16 bytes
      DISK_SIGNATURE = 440      # offset of 4 bytes that name the disk
      EXTENDED = [0x05, 0x0F, 0x85].freeze
      PROTECTIVE = 0xEE
      ACTIVE = 0x80
      # Sectors have 32 bits.
      MOST_SECTORS = 1 << 32

      # A boot record: byte offset on the disk, and its sector.
      Record = Struct.new(:offset, :bytes)
      # The container of the logical partitions, itself an entry of the table.
      Extended = Struct.new(:number, :type, :first_lba, :last_lba, keyword_init: true)

      attr_reader :sector, :signature, :partitions, :records, :extended, :findings, :source, :disk_size

      # @param sector [Integer] bytes per LBA
      # @param signature [Integer] the disk's identity
      # @param partitions [Array<Partition>]
      # @param records [Array<Record>] the master boot record first
      # @param extended [Extended, nil]
      # @param disk_size [Integer] bytes
      def initialize(sector:, signature:, partitions:, records:, extended:, disk_size:, findings: [])
        @sector = sector
        @signature = signature
        @partitions = partitions
        @records = records
        @extended = extended
        @disk_size = disk_size
        @findings = findings
        @source = :primary
      end

      # @param disk [Disk]
      # @param logical [Boolean] whether the chain of logical partitions is followed
      # @return [Mbr, nil] nil where there is none, or only one that stands for a GPT
      # @raise [Damaged]
      def self.read(disk, logical: true) = MbrReader.new(disk, logical:).read

      # @param disk [Disk]
      # @return [Boolean] whether an entry of type 0xEE stands for a GPT
      def self.protective?(disk) = MbrReader.new(disk).protective?

      # @param signature [Integer] of the disk
      # @return [String] what Linux calls a partition of it
      def self.partition_guid(signature, number) = format('%<signature>08x-%<number>02x', signature:, number:)

      def kind = 'mbr'

      # @return [String] the signature as Linux writes it in PARTUUIDs
      def guid = format('%08x', signature)

      def first_usable = 1
      def last_usable = [disk_size / sector, MOST_SECTORS].min - 1

      # @return [Array<Integer>] byte offset and length of the gap in front of
      #   the first partition, where loaders put their code
      def code_area
        first = [*partitions.map(&:start), *(extended && [extended.first_lba * sector])].min || sector
        [sector, [first, disk_size].min - sector]
      end

      # The same partitions on a disk of another size.
      # @param size [Integer] bytes
      # @return [Mbr]
      # @raise [DoesNotFit] where a partition would leave it
      def for_disk(size)
        if (out = partitions.find { |part| part.end > size })
          raise DoesNotFit.new("partition #{out.number} ends #{out.end - size} bytes behind the end of the disk",
                               where: "partition #{out.number}")
        end
        Mbr.new(sector:, signature:, partitions:, records:, extended:, disk_size: size)
      end

      # The same table with other partitions in its entries: code, signature, container and chain stay where they are.
      # @param partitions [Array<Partition>] logical ones only where there was one of the same number
      # @return [Mbr]
      def with_entries(partitions)
        changed = records.map do |record|
          own = record.offset.zero? ? primary_entries(partitions) : logical_entry(record, partitions)
          Record.new(record.offset, record.bytes.dup.tap { |bytes| bytes[ENTRIES, own.bytesize] = own })
        end
        Mbr.new(sector:, signature:, partitions: partitions.sort_by(&:number), records: changed, extended:, disk_size:)
      end

      # The same table as that of another disk: Linux calls the partitions by its signature and their number.
      # @param signature [Integer] of 32 bits
      # @return [Mbr]
      def with_signature(signature)
        first = Record.new(0, records.first.bytes.dup.tap { |bytes| bytes[DISK_SIGNATURE, 4] = [signature].pack('V') })
        named = partitions.map { |part| part.dup.tap { |copy| copy.guid = Mbr.partition_guid(signature, part.number) } }
        Mbr.new(sector:, signature:, partitions: named, records: [first, *records.drop(1)], extended:, disk_size:)
      end

      # Writes the records of the chain first and the master boot record last,
      # so that a cut in between leaves a disk without a table.
      # @param disk [Disk]
      def write(disk)
        pieces(disk.size).each { |offset, bytes| disk.write(offset, bytes) }
        disk.flush
      end

      # @return [Array<(Integer, String)>] byte offset and bytes, in the order
      #   in which they are to be written
      def pieces(_size) = records.reverse.map { |record| [record.offset, record.bytes] }

      private

      def primary_entries(partitions)
        (1..4).map do |number|
          kept = records.first.bytes.byteslice(ENTRIES + ((number - 1) * 16), 16)
          number == extended&.number ? kept : entry(partitions, number, kept)
        end.join
      end

      # The first of a record's two entries; the other one leads to the next record.
      def logical_entry(record, partitions)
        kept = record.bytes.byteslice(ENTRIES, 16)
        base = record.offset / sector
        old = self.partitions.find { |part| part.number > 4 && part.first_lba == base + kept.unpack1('@8V') }
        old ? entry(partitions, old.number, kept, base:) : kept
      end

      # An entry that says the same stays byte for byte.
      def entry(partitions, number, kept, base: 0)
        part = partitions.find { |one| one.number == number } or return "\0".b * 16
        part == self.partitions.find { |one| one.number == number } ? kept : MbrBuilder.entry(part, base:)
      end
    end
  end
end
