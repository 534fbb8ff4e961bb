# frozen_string_literal: true

module Evrel
  module Luks
    # What a container holds, as a disk that is read.
    class Opened
      include Disk

      # @param source [Disk] the container; closed with it
      # @param payload [Integer] byte at which what is encrypted begins
      # @param sectors [Sectors]
      def initialize(source, payload, sectors)
        @source = source
        @payload = payload
        @sectors = sectors
      end

      def size = (@source.size - @payload) / SECTOR * SECTOR
      def logical_sector = SECTOR
      def physical_sector = 4096
      def fork_safe? = @source.fork_safe?
      def close = @source.close

      def read_bytes(offset, length)
        first = offset / SECTOR
        below = (offset + length + SECTOR - 1) / SECTOR
        bytes = @source.read(@payload + (first * SECTOR), (below - first) * SECTOR)
        @sectors.decrypt(bytes, first).byteslice(offset - (first * SECTOR), length)
      end
    end
  end
end
