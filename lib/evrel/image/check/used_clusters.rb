# frozen_string_literal: true

module Evrel
  module Image
    # The clusters of an image that hold something, where no list of digests is
    # there: answers as Digests does, with nil for each digest that is not known.
    class UsedClusters
      # @param map [UsedMap]
      # @param known [FirstRead, nil] digests that come to be known on the way
      def initialize(map, known = nil)
        @known = known
        @runs = []
        map.each_cluster do |index, _|
          if @runs.last && @runs.last.last == index
            @runs.last[1] = index + 1
          else
            @runs << [index, index + 1]
          end
        end
      end

      def count = @runs.sum { |first, last| last - first }

      # As Digests#each_batch.
      def each_batch(from: 0, below: nil, batch: Digests::BATCH)
        return enum_for(:each_batch, from:, below:, batch:) unless block_given?

        numbers(from, below).each_slice(batch) { |slice| yield slice.map { |index| [index, of(index)] } }
      end

      # As Digests#each_span.
      def each_span(from: 0, below: nil, batch: Digests::BATCH)
        return enum_for(:each_span, from:, below:, batch:) unless block_given?

        at = count_between(0, from)
        last = below ? count_between(0, below) : count
        at.step(last - 1, batch) { |first| yield [first, [batch, last - first].min] }
      end

      # As Digests#slice.
      def slice(at, count)
        found = []
        @runs.each do |first, last|
          from = first + at
          from.upto([last, from + count - found.size].min - 1) { |index| found << [index, of(index)] } if from < last
          at = [at - (last - first), 0].max
          break if found.size == count
        end
        found
      end

      # As Digests#of.
      def of(index) = @known&.of(index)

      # @return [Integer] how many clusters lie in from...below
      def count_between(from, below)
        @runs.sum { |first, last| [[last, below].min - [first, from].max, 0].max }
      end

      def close; end

      private

      def numbers(from, below)
        @runs.lazy.flat_map { |first, last| ([first, from].max...[last, below || last].min).lazy }
      end
    end
  end
end
