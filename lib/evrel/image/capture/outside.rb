# frozen_string_literal: true

module Evrel
  module Image
    # What a disk keeps outside of its partitions: the table, the code in front
    # of the first partition of an MBR, and whatever is not zero in the first
    # and last 4 MiB and right in front of a partition: loaders and firmware put
    # things there that no table speaks of.
    class Outside
      EDGE = 4 * MIB
      FRONT = 4 * KIB # in front of a partition
      STEP = 4 * KIB  # is kept or not as a whole
      ZEROS = ("\0".b * MIB).freeze

      # @param disk [Disk]
      # @param table [Table::Gpt, Table::Mbr]
      def initialize(disk, table)
        @disk = disk
        @table = table
      end

      # Where a table lies, and the code of an MBR.
      # @param table [Table::Gpt, Table::Mbr]
      # @param size [Integer] bytes of the disk that carries it
      # @return [Array<(Integer, Integer)>] byte offset and length, ascending
      def self.areas(table, size)
        sector = table.sector
        if table.kind == 'mbr'
          return [[0, sector], table.code_area, *table.records.drop(1).map { |one| [one.offset, sector] }]
                 .select { |_, length| length.positive? }.sort
        end

        head = (2 + table.entry_sectors) * sector
        tail = (1 + table.entry_sectors) * sector
        [[0, head], [size - tail, tail]]
      end

      # @return [Array<(Integer, Integer)>] byte offset and length, ascending and apart
      # @raise [Unreadable] of the table itself; what else cannot be read is kept
      def ranges = joined(self.class.areas(@table, @disk.size) + found)

      # @return [Array<(Integer, Integer)>] what is there beside the table and its code
      def found
        Volume::Runs.without(joined(places), taken).flat_map { |offset, length| held(offset, length) }.then { |all| joined(all) }
      end

      # @return [Array<(Integer, Integer)>] all room that is neither a partition's nor the table's
      def gaps = Volume::Runs.without([[0, @disk.size]], taken)

      private

      def joined(ranges) = Volume::Runs.enum_for(:union, ranges).to_a

      def taken
        joined(@table.partitions.map { |part| [part.start, part.size] } + self.class.areas(@table, @disk.size))
      end

      # What is kept where it holds something.
      def places
        edge = [EDGE, @disk.size].min
        fronts = @table.partitions.map { |part| [[part.start - FRONT, 0].max, [FRONT, part.start].min] }
        [[0, edge], [@disk.size - edge, edge], *fronts].select { |_, length| length.positive? }
      end

      # Read a piece at a time, and closer only where that holds something.
      def held(offset, length)
        offset.step(offset + length - 1, MIB).flat_map do |from|
          piece = [MIB, offset + length - from].min
          next [] if empty?(from, piece)

          from.step(from + piece - 1, STEP).filter_map do |at|
            size = [STEP, from + piece - at].min
            [at, size] unless empty?(at, size)
          end
        end
      end

      # What cannot be read may be anything.
      def empty?(at, size)
        @disk.read(at, size) == ZEROS.byteslice(0, size)
      rescue BadPlace
        false
      end
    end
  end
end
