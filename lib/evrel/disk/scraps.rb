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

      def read_bytes(offset, length)
        found = "\0".b * length
        @pieces.each do |at, bytes|
          first = [at, offset].max
          last = [at + bytes.bytesize, offset + length].min
          found[first - offset, last - first] = bytes.byteslice(first - at, last - first) if last > first
        end
        found
      end

      def extents
        return enum_for(:extents) unless block_given?

        @pieces.sort.each { |at, bytes| yield at, bytes.bytesize }
      end
    end
  end
end
