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
