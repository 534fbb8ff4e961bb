# frozen_string_literal: true

module Evrel
  module Image
    # What an image does not hold of a disk, and by which map: an account of
    # every byte that is absent. Holes of a sparse source read as zeros in the
    # image too and are not absent.
    class LeftOut
      # A part with more gaps than this is kept whole: they could not be listed.
      MOST = 1_000_000
      TABLE = 'the partition table'
      # In place of a map, of a part that somebody chose to leave out.
      CHOICE = 'left out by choice'

      # A range that is absent: bytes; number of the part, nil outside of all; the name of the map.
      Range = Struct.new(:offset, :length, :part, :map)

      # @param map [UsedMap]
      # @param size [Integer] bytes of the disk
      def initialize(map, size)
        @map = map
        @size = size
      end

      # Yields each Range, ascending.
      def each(&)
        return enum_for(:each) unless block_given?

        at = 0
        @map.each_run do |offset, length|
          between(at, offset, &)
          at = offset + length
        end
        between(at, @size, &)
      end

      # Adds each up; a part whose gaps are too many is kept whole from now on.
      # @return [Array<Hash>] "part" (or nil), "map", "ranges" (how many) and "bytes"
      def summary
        totals = {}
        each do |range|
          total = totals[range.part] ||= { 'part' => range.part, 'map' => range.map, 'ranges' => 0, 'bytes' => 0 }
          total['ranges'] += 1
          total['bytes'] += range.length
        end
        many = totals.values.select { |one| one['part'] && one['ranges'] > MOST }
        return totals.values if many.empty?

        many.each { |one| keep_whole(one['part']) }
        summary
      end

      private

      def keep_whole(number)
        part = @map.all.find { |one| one.number == number }
        @map.keep_whole(part, "its map has more than #{Units.count(MOST)} gaps")
      end

      # What a gap touches is told apart at the edges of partitions.
      def between(from, below)
        return if from >= below || (@map.table && @map.member)

        areas.each do |first, last, part|
          start = [from, first].max
          stop = [below, last].min
          next if stop <= start || (part&.whole && !part.passed_over)

          yield Range.new(start, stop - start, part&.number, name(part))
        end
      end

      def name(part)
        return TABLE unless part

        part.passed_over ? CHOICE : part.volume.map
      end

      # @return [Array<(Integer, Integer, UsedMap::Part)>] first byte, the byte behind the last, and the part or nil
      def areas
        @areas ||= begin
          at = 0
          found = @map.all.sort_by(&:start).flat_map do |part|
            gap = [at, part.start, nil]
            at = part.end
            # What lies behind the volume is kept, or a hole.
            size = part.passed_over ? part.disk.size : [part.volume.size, part.disk.size].min
            [gap, [part.start, part.start + size, part]]
          end
          [*found, [at, @size, nil]].select { |first, last,| last > first }
        end
      end
    end
  end
end
