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

      def read_bytes(offset, length) = read_bytes_into(''.b, offset, length)

      def read_bytes_into(buffer, offset, length)
        first = offset / SECTOR
        below = (offset + length + SECTOR - 1) / SECTOR
        @source.read_into(buffer, @payload + (first * SECTOR), (below - first) * SECTOR)
        @sectors.decrypt!(buffer, first)
        buffer.bytesize == length ? buffer : buffer.replace(buffer.byteslice(offset - (first * SECTOR), length))
      end
    end
  end
end
