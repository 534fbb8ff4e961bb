# frozen_string_literal: true

module Evrel
  module Volume
    # The master file table: records by number, and the attributes of a file,
    # wherever its attribute list has put them.
    class NtfsMft
      # More pieces of attributes than this no file has; a list that claims more lies.
      MOST_PIECES = 20_000
      KEPT = 2048

      def initialize(disk, boot)
        @disk = disk
        @boot = boot
        @size = boot.record_size
        @cluster = boot.cluster_size
        @clusters = boot.sector_count * boot.sector_size / @cluster
        @kept = {}
        first = NtfsRecord.new(disk.read(boot.mft_cluster * @cluster, @size), 0)
        # Its own first piece is enough to find the records that its list names.
        @stream = stream_of(first.attributes.select { |one| data?(one) })
        @stream = stream_of(all_attributes(first).select { |one| data?(one) })
      end

      # @return [Integer] records, in use or not
      def count = @stream.size / @size

      # @param number [Integer]
      # @return [NtfsRecord]
      # @raise [Damaged]
      def record(number)
        raise Damaged.new("MFT record #{number} does not exist", where: "MFT record #{number}") unless number.between?(0, count - 1)

        @kept.clear if @kept.size > KEPT
        @kept[number] ||= NtfsRecord.new(@stream.read(number * @size, @size), number)
      end

      # @return [String] a record as it lies on the disk
      def bytes(number) = @stream.read(number * @size, @size)

      # Yields number and bytes of each record, in use or not.
      # @param batch [Integer] how many are read at once
      def each_raw(batch)
        0.step(count - 1, batch) do |from|
          piece = @stream.read(from * @size, [batch, count - from].min * @size)
          (piece.bytesize / @size).times { |index| yield from + index, piece.byteslice(index * @size, @size) }
        end
      end

      # @return [Boolean] whether the table's own bitmap says that a record is in use
      def claimed?(number)
        @claims ||= stream(record(0), NtfsAttribute::BITMAP)&.then { |map| map.read(0, map.size) } || ''.b
        @claims.getbyte(number / 8).to_i[number % 8] == 1
      end

      # @param reference [Integer] number in the low 48 bits, sequence above
      # @return [NtfsRecord]
      # @raise [Damaged] where the record has been given to another file
      def follow(reference)
        found = record(reference & 0xFFFF_FFFF_FFFF)
        sequence = reference >> 48
        return found if found.in_use? && (sequence.zero? || sequence == found.sequence)

        raise Damaged.new("MFT record #{found.number} belongs to something else now", where: "MFT record #{found.number}")
      end

      # @param record [NtfsRecord]
      # @param type [Integer]
      # @param name [String]
      # @return [NtfsStream, nil]
      def stream(record, type, name = '')
        found = all_attributes(record).select { |one| one.type == type && one.name == name }
        stream_of(found) if found.any?
      end

      # @return [NtfsAttribute, nil] a resident one
      def resident(record, type, name = '')
        all_attributes(record).find { |one| one.type == type && one.name == name && one.resident? }
      end

      # @return [Array<Integer>] byte offset and length of a record on the volume
      def place(number)
        offset = number * @size
        run = @stream.runs.find { |one| (one.vcn + one.count) * @cluster > offset }
        [(run.lcn * @cluster) + offset - (run.vcn * @cluster), @size]
      end

      # @return [Array<NtfsAttribute>]
      def all_attributes(record)
        list = record.attributes.select { |one| one.type == NtfsAttribute::LIST }
        return record.attributes if list.empty?

        records = listed(stream_of(list), record)
        records.flat_map(&:attributes)
      end

      private

      def data?(attribute) = attribute.type == NtfsAttribute::DATA && attribute.name.empty?
      def stream_of(attributes) = NtfsStream.new(@disk, @cluster, @clusters, attributes)

      # Entry of a list: type (4), length at 4 (2), reference of its record at 16 (8).
      def listed(list, base)
        bytes = list.read(0, list.size)
        numbers = [base.number]
        at = 0
        while at + 26 <= bytes.bytesize
          length, reference = bytes.unpack("@#{at + 4}v@#{at + 16}Q<")
          raise Damaged.new("MFT record #{base.number} has a broken attribute list", where: "MFT record #{base.number}") if length < 26

          numbers << (reference & 0xFFFF_FFFF_FFFF)
          raise Damaged, "MFT record #{base.number} has too many pieces" if numbers.size > MOST_PIECES

          at += length
        end
        numbers.uniq.map { |number| number == base.number ? base : piece(number, base) }
      end

      def piece(number, base)
        found = record(number)
        return found if (found.base & 0xFFFF_FFFF_FFFF) == base.number

        raise Damaged.new("MFT record #{number} is no piece of record #{base.number}", where: "MFT record #{number}")
      end
    end
  end
end
