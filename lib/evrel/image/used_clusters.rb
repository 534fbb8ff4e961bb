# frozen_string_literal: true

module Evrel
  module Image
    # The clusters of an image that hold something, where no digests of them
    # are known: answers as Digests does, with nil for each digest.
    class UsedClusters
      # @param map [UsedMap]
      def initialize(map)
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

        numbers(from, below).each_slice(batch) { |slice| yield slice.map { |index| [index, nil] } }
      end

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
