# frozen_string_literal: true

module Evrel
  module Volume
    # What has to be kept of the place that a volume lies in: what the volume
    # itself needs, and what it does not speak of.
    module Kept
      # Start-up code and other marks lie in front of what file systems count.
      HEAD = 4096

      module_function

      # Yields byte offset and length of each run, ascending and apart.
      # @param volume [Object] one of the kinds of Volume
      # @param disk [Disk] the partition, or the disk, that it lies in
      # @param whole [Boolean] whether all of it is kept, whatever the volume says
      def each(volume, disk, whole: false, &block)
        return enum_for(:each, volume, disk, whole:) unless block
        return disk.extents(&block) if whole || volume.kept_whole?

        head = [HEAD, disk.size].min
        yield 0, head
        volume.used_extents do |offset, length|
          cut = [head - offset, 0].max
          yield offset + cut, length - cut if length > cut
        end
        behind([volume.size, head].max, disk, &block)
      end

      # The rest of a partition, behind its file system.
      def behind(from, disk)
        return if from >= disk.size

        disk.extents do |offset, length|
          first = [offset, from].max
          yield first, offset + length - first if offset + length > first
        end
      end
      private_class_method :behind
    end
  end
end
