# frozen_string_literal: true

module Evrel
  module Restore
    # A volume as it is once it has grown, to read: what was changed above what
    # the image has.
    class Grown
      include Disk

      attr_reader :size

      # @param below [Disk] the volume in the image
      # @param changes [WorkingFile]
      def initialize(below, changes)
        @below = below
        @changes = changes
        @size = changes.disk.size
      end

      def logical_sector = @below.logical_sector
      def physical_sector = @below.physical_sector

      def read_bytes(offset, length)
        out = ''.b
        while length.positive?
          index, within = offset.divmod(Image::CLUSTER)
          take = [Image::CLUSTER - within, length].min
          out << (@changes.clusters.include?(index) ? @changes.disk.read(offset, take) : original(offset, take))
          offset += take
          length -= take
        end
        out
      end

      private

      # Behind the end of the old volume there is nothing.
      def original(offset, length)
        there = (@below.size - offset).clamp(0, length)
        (there.positive? ? @below.read(offset, there) : ''.b).ljust(length, "\0".b)
      end
    end
  end
end
