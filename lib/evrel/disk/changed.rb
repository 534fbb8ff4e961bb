# frozen_string_literal: true

module Evrel
  module Disk
    # A disk as it would be with some bytes changed, to read.
    class Changed
      include Disk

      # @param disk [Disk]
      # @param changes [Array<(Integer, String)>] byte offset, and what would stand there; they do not overlap
      def initialize(disk, changes)
        @disk = disk
        @changes = changes
      end

      def size = @disk.size
      def logical_sector = @disk.logical_sector
      def physical_sector = @disk.physical_sector

      def read_bytes(offset, length) = Disk.lay(@changes, @disk.read(offset, length), offset)
    end
  end
end
