# frozen_string_literal: true

module Evrel
  module Volume
    # Runs of set bits in a bitmap, and runs of numbers merged into extents.
    module Runs
      module_function

      # @param bits [String] of "0" and "1", first bit first (unpack1('b*'))
      # @yieldparam first [Integer] index of the first set bit of a run
      # @yieldparam count [Integer]
      def of_bits(bits)
        at = 0
        while (from = bits.index('1', at))
          to = bits.index('0', from) || bits.length
          yield from, to - from
          at = to
        end
      end

      SET = ("\xFF".b * 4096).freeze

      # @param bytes [String] a bitmap, the lowest bit of a byte first
      # @param first [Integer] index of a bit
      # @param count [Integer]
      # @return [Boolean] whether all of these bits are set
      def all_set?(bytes, first, count)
        head = [-first % 8, count].min
        return false unless bits_set?(bytes, first, head)

        whole = (count - head) / 8
        return false unless bytes_set?(bytes, (first + head) / 8, whole)

        bits_set?(bytes, first + head + (whole * 8), count - head - (whole * 8))
      end

      # At most eight, in one byte.
      def bits_set?(bytes, first, count)
        return true if count.zero?

        mask = ((1 << count) - 1) << (first % 8)
        bytes.getbyte(first / 8) & mask == mask
      end

      def bytes_set?(bytes, first, count)
        while count.positive?
          take = [count, SET.bytesize].min
          return false unless bytes.byteslice(first, take) == SET.byteslice(0, take)

          first += take
          count -= take
        end
        true
      end
      private_class_method :bits_set?, :bytes_set?

      # Joins neighbours of an ascending enumeration of (first, count) and
      # yields them scaled to bytes.
      # @param runs [Enumerator]
      # @param unit [Integer] bytes per number
      # @param base [Integer] byte offset of number zero
      def merged(runs, unit, base = 0)
        first = nil
        count = 0
        runs.each do |from, length|
          if first && from == first + count
            count += length
          else
            yield base + (first * unit), count * unit if first
            first = from
            count = length
          end
        end
        yield base + (first * unit), count * unit if first
      end

      # @param ranges [Array<(Integer, Integer)>] offset and length, ascending and apart
      # @param holes [Array<(Integer, Integer)>] the same
      # @return [Array<(Integer, Integer)>] the ranges without what lies in a hole
      def without(ranges, holes)
        ranges.flat_map do |offset, length|
          below = offset + length
          inside = holes.select { |from, size| from < below && from + size > offset }
          edges = [offset, *inside.flat_map { |from, size| [from, from + size] }, below]
          edges.each_slice(2).filter_map { |from, to| [from, to - from] if to > from }
        end
      end

      # Joins ranges in any order, overlapping or not.
      # @param ranges [Array<(Integer, Integer)>] offset and length
      # @yieldparam offset [Integer] ascending
      # @yieldparam length [Integer]
      def union(ranges)
        from = to = nil
        ranges.sort.each do |offset, length|
          if to && offset <= to
            to = [to, offset + length].max
          else
            yield from, to - from if from
            from = offset
            to = offset + length
          end
        end
        yield from, to - from if from
      end
    end
  end
end
