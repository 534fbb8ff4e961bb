# frozen_string_literal: true

module Evrel
  module Disk
    # A disk of which only some places are known; the rest reads as zeros. What
    # was sealed of a disk's table stays readable in it when the disk has changed.
    class Scraps
      include Disk

      attr_reader :size, :logical_sector, :physical_sector

      # @param pieces [Array<(Integer, String)>] byte offset and bytes
      # @param size [Integer] bytes
      def initialize(pieces, size:, logical_sector: 512, physical_sector: 4096)
        @pieces = pieces
        @size = size
        @logical_sector = logical_sector
        @physical_sector = physical_sector
      end

      def read_bytes(offset, length) = Disk.lay(@pieces, "\0".b * length, offset)

      def extents
        return enum_for(:extents) unless block_given?

        @pieces.sort.each { |at, bytes| yield at, bytes.bytesize }
      end
    end
  end
end
