# frozen_string_literal: true

module Evrel
  module Image
    # Several clusters of a source that gives them one by one (`cluster`):
    # answers as ClustersAtOnce does.
    module OneByOne
      # @param index [Integer]
      # @return [String] bytes of +disk+, CLUSTER of them or, of the last one, those up to its end
      # @raise [OutOfRange] where the disk has none of this number
      def cluster_of(disk, index)
        offset = index * CLUSTER
        raise OutOfRange.new("cluster #{index} is outside of the image", where: "cluster #{index}") if offset >= disk.size

        disk.read(offset, [CLUSTER, disk.size - offset].min)
      end

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
