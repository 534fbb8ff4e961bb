# frozen_string_literal: true

module Evrel
  module Image
    # Which bytes of a disk an image has to keep, with what is on it.
    class UsedMap
      # A partition with what was recognised in it; error is a Damaged or nil.
      Part = Struct.new(:partition, :volume, :error)

      attr_reader :table, :parts

      # @param disk [Disk]
      # @raise [Damaged] where the table cannot be trusted
      def initialize(disk)
        @disk = disk
        @table = Table.read(disk)
        @parts = table ? table.partitions.map { |part| recognised(part) } : []
        @whole, @whole_error = Volume.recognise_or_unknown(disk) unless table
      end

      # Without a table: the volume that fills the disk.
      attr_reader :whole

      # @return [Integer] bytes of all volumes in use, tables left out
      def used_bytes = table ? parts.sum { |part| part.volume.used_bytes } : whole.used_bytes

      # Yields byte offset and length of each run, ascending.
      def each_run(&block)
        return enum_for(:each_run) unless block
        return whole.used_extents(&block) unless table

        pieces = table_areas.map { |area| [area.first, -> { yield(*area) }] }
        pieces += parts.map do |part|
          start = part.partition.start
          [start, -> { part.volume.used_extents { |offset, length| yield start + offset, length } }]
        end
        pieces.sort_by(&:first).each { |_, run| run.call }
      end

      # Yields the number of each cluster that holds used bytes, ascending, and
      # its used ranges as [offset within the cluster, length].
      def each_cluster
        return enum_for(:each_cluster) unless block_given?

        current = nil
        ranges = []
        each_run do |offset, length|
          while length.positive?
            index, within = offset.divmod(CLUSTER)
            take = [CLUSTER - within, length].min
            if index != current
              yield current, ranges if current
              current = index
              ranges = []
            end
            ranges << [within, take]
            offset += take
            length -= take
          end
        end
        yield current, ranges if current
      end

      private

      def recognised(partition)
        volume, error = Volume.recognise_or_unknown(partition.window(@disk))
        Part.new(partition, volume, error)
      end

      # @return [Array<(Integer, Integer)>] byte offset and length of what is kept outside of the partitions
      def table_areas
        return [[0, table.sector], table.code_area, *table.records.drop(1).map { |one| [one.offset, table.sector] }] if table.kind == 'mbr'

        head = (2 + table.entry_sectors) * table.sector
        tail = (1 + table.entry_sectors) * table.sector
        [[0, head], [@disk.size - tail, tail]]
      end
    end
  end
end
