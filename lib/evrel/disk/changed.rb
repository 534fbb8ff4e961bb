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

      def read_bytes(offset, length)
        bytes = @disk.read(offset, length)
        @changes.each do |at, changed|
          from = [at, offset].max
          upto = [at + changed.bytesize, offset + length].min
          bytes[from - offset, upto - from] = changed.byteslice(from - at, upto - from) if upto > from
        end
        bytes
      end
    end
  end
end
