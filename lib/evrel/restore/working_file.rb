# frozen_string_literal: true

module Evrel
  module Restore
    # A volume that was brought to its new size in the scratch room, as a source
    # of clusters; byte 0 is the first of the volume.
    class WorkingFile
      include Image::OneByOne

      attr_reader :disk, :digests

      # @param path [String] of the volume
      # @param list [String] of its digests
      # @raise [Unreadable, Damaged]
      def initialize(path, list)
        @disk = Disk::File.open(path)
        @digests = Image::Digests.new(Disk::File.open(list, logical_sector: 1), list)
      end

      # @return [String] the last one may be shorter
      # @raise [OutOfRange]
      def cluster(index) = cluster_of(disk, index)

      # @return [Set<Integer>] numbers of the clusters that it has
      def clusters = @clusters ||= digests.each_batch.flat_map { |batch| batch.map(&:first) }.to_set

      # @return [Boolean] whether other processes can read it too
      def fork_safe? = disk.fork_safe?

      def close
        disk.close
        digests.close
      end

      # Lists the digests of all clusters that hold something.
      def self.list(path, list)
        FileUtils.rm_f(list)
        Disk::File.open(path) do |disk|
          writer = Image::Digests::Writer.new(list)
          clusters(disk) do |index|
            at = index * Image::CLUSTER
            data = disk.read(at, [Image::CLUSTER, disk.size - at].min)
            writer.add(index, Image::Digests.of(data)) unless data.count("\0") == data.bytesize
          end
          writer.close
        end
      end

      def self.clusters(disk, &block)
        following = 0
        disk.extents do |offset, length|
          first = [offset / Image::CLUSTER, following].max
          last = (offset + length - 1) / Image::CLUSTER
          (first..last).each(&block)
          following = last + 1
        end
      end
      private_class_method :clusters
    end
  end
end
