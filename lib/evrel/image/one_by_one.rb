# frozen_string_literal: true

module Evrel
  module Image
    # Several clusters of a source that gives them one by one (`cluster`):
    # answers as ClustersAtOnce does.
    module OneByOne
      # @param indexes [Array<Integer>] ascending
      # @yieldparam index [Integer]
      # @yieldparam data [String, nil] its bytes; nil where they were not to be had: `cluster` says why
      def each_cluster(indexes)
        indexes.each do |index|
          data = begin
            cluster(index)
          rescue Error
            nil
          end
          yield index, data
        end
      end
    end
  end
end
