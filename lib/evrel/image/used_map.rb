# frozen_string_literal: true

module Evrel
  module Image
    # Which bytes of a disk an image has to keep, with what is on it.
    class UsedMap
      # A partition with what was recognised in it; error is a Damaged or nil.
      Part = Struct.new(:partition, :volume, :error)

      attr_reader :table, :parts

      # @param disk [Disk]
      # @param tolerant [Boolean] a volume whose own map of what is used cannot
      #   be read counts as unknown: all of it is kept, as far as it can be read
      # @raise [Damaged] where the table cannot be trusted
      # @raise [Unreadable]
      def initialize(disk, tolerant: false)
        @disk = disk
        @tolerant = tolerant
        @table = Table.read(disk)
        @parts = table ? table.partitions.map { |part| recognised(part) } : []
        @whole, @whole_error = volume_of(disk) unless table
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
        Part.new(partition, *volume_of(partition.window(@disk)))
      end

      # @return [Array<(Object, Error)>] as Volume.recognise_or_unknown
      def volume_of(window)
        volume, error = Volume.recognise_or_unknown(window)
        volume.used_extents { nil } if @tolerant # volumes read their maps late
        [volume, error]
      rescue Unreadable => e
        raise unless @tolerant

        [Volume::Unknown.new(window), e]
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
