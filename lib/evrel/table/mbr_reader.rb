# frozen_string_literal: true

module Evrel
  module Table
    # Reads a master boot record and its chain, and distrusts them: the last
    # two bytes of a file system's boot sector are the same, and a chain may
    # loop.
    class MbrReader
      # As many logical partitions as Linux takes.
      MOST_LOGICAL = 252
      Entry = Struct.new(:status, :type, :first, :sectors)

      def initialize(disk, logical: true)
        @disk = disk
        @logical = logical
        @sector = disk.logical_sector
        @sectors = disk.size / @sector
      end

      def protective? = head.any? { |entry| entry.type == Mbr::PROTECTIVE }

      # @return [Mbr, nil]
      # @raise [Damaged]
      def read
        entries = head
        return if entries.empty? || protective?

        @records = [Mbr::Record.new(0, @master)]
        @signature = @master.unpack1("@#{Mbr::DISK_SIGNATURE}V")
        partitions = primary(entries)
        partitions += logical if @extended && @logical
        Table.check_overlaps(partitions)
        Mbr.new(sector: @sector, signature: @signature, partitions:, records: @records, extended: @extended, disk_size: @disk.size)
      end

      private

      # @return [Array<Entry>] empty where sector 0 is no such record
      def head
        return [] if @disk.size < 512 || @sector < 512

        @master = @disk.read(0, @sector)
        return [] unless @master.byteslice(510, 2) == Mbr::SIGNATURE

        entries = entries_of(@master)
        plausible?(entries) ? entries : []
      end

      # Entry: status, CHS (3), type, CHS (3), first sector, number of sectors.
      def entries_of(bytes)
        Array.new(4) { |index| Entry.new(*bytes.unpack("@#{Mbr::ENTRIES + (index * 16)}Cx3Cx3VV")) }
      end

      # What boot code is not: four entries of which each is empty or sane.
      def plausible?(entries)
        used = entries.reject { |entry| entry.type.zero? }
        used.any? && entries.all? { |entry| [0, Mbr::ACTIVE].include?(entry.status) } &&
          used.all? { |entry| entry.first.positive? && entry.sectors.positive? } && used.any? { |entry| entry.first < @sectors }
      end

      def primary(entries)
        entries.each_with_index.filter_map do |entry, index|
          next if entry.type.zero?
          next partition(entry, index + 1, 0) unless Mbr::EXTENDED.include?(entry.type)
          raise damaged('has two extended partitions', 0) if @extended

          check_range(entry, index + 1, 0)
          @extended = Mbr::Extended.new(number: index + 1, type: type_of(entry), first_lba: entry.first,
                                        last_lba: entry.first + entry.sectors - 1)
          nil
        end
      end

      # Each record holds one partition, counted from the record itself, and
      # the next record, counted from the start of the extended partition.
      def logical
        found = []
        seen = {}
        at = @extended.first_lba
        while at
          raise damaged('the chain of logical partitions loops', at) if seen[at] || seen.size >= MOST_LOGICAL

          seen[at] = true
          entries = record(at)
          own = entries.first(2).find { |entry| !entry.type.zero? && !Mbr::EXTENDED.include?(entry.type) }
          found << partition(own, 5 + found.size, at) if own
          at = following(entries)
        end
        found
      end

      def record(lba)
        unless lba.between?(@extended.first_lba, @extended.last_lba) && lba < @sectors
          raise damaged('the chain of logical partitions leaves the extended partition', lba)
        end

        bytes = @disk.read(lba * @sector, @sector)
        raise damaged('a record of the chain has no signature', lba) unless bytes.byteslice(510, 2) == Mbr::SIGNATURE

        @records << Mbr::Record.new(lba * @sector, bytes)
        entries_of(bytes)
      end

      def following(entries)
        link = entries.first(2).find { |entry| Mbr::EXTENDED.include?(entry.type) && entry.sectors.positive? }
        link && (@extended.first_lba + link.first)
      end

      def partition(entry, number, base)
        check_range(entry, number, base)
        first = base + entry.first
        Partition.new(number:, type: type_of(entry), guid: Mbr.partition_guid(@signature, number), first_lba: first,
                      last_lba: first + entry.sectors - 1, attributes: entry.status & Mbr::ACTIVE, name: '', sector: @sector)
      end

      def type_of(entry) = format('0x%02x', entry.type)

      def check_range(entry, number, base)
        last = base + entry.first + entry.sectors - 1
        return if entry.sectors.positive? && last < @sectors

        raise Damaged.new("partition #{number} covers sectors #{base + entry.first} to #{last} on a disk of #{@sectors} sectors",
                          where: "partition #{number}")
      end

      def damaged(message, lba) = Damaged.new("the partition table: #{message}", where: "MBR, sector #{lba}")
    end
  end
end
