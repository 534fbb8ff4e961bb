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
        cut(buffer, offset - (first * SECTOR), length)
      end

      private

      # In place: a copy of so much each time costs half as much as decrypting it.
      # @param buffer [String] binary: of which bytes are counted
      def cut(buffer, from, length)
        buffer[from + length, buffer.bytesize] = '' if from + length < buffer.bytesize
        buffer[0, from] = '' if from.positive?
        buffer
      end
    end
  end
end
