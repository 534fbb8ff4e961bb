# frozen_string_literal: true

module Evrel
  module Disk
    # A file of a web shelf, read in ranges. What is near is likely to be asked
    # for next: whole blocks are fetched, and the last few are kept.
    class Web
      include Disk

      BLOCK = MIB
      KEPT = 24

      attr_reader :size

      # @param requests [Shelf::WebRequests]
      # @param entry [Shelf::Entry]
      def initialize(requests, entry)
        @requests = requests
        @path = entry.path
        @size = entry.size
        @tag = entry.stamp.to_s[%r{\A(?:W/)?"[^"]*"}]
        @blocks = {}
        @lock = Mutex.new
      end

      def logical_sector = 1
      def physical_sector = 1

      def read_bytes(offset, length)
        out = ''.b
        while length.positive?
          index, within = offset.divmod(BLOCK)
          take = [BLOCK - within, length].min
          out << block(index).byteslice(within, take)
          offset += take
          length -= take
        end
        out
      end

      private

      def block(index)
        @lock.synchronize do
          found = @blocks.delete(index) || fetched(index)
          @blocks.shift if @blocks.size >= KEPT
          @blocks[index] = found
        end
      end

      def fetched(index)
        offset = index * BLOCK
        @requests.range(@path, offset, [BLOCK, size - offset].min, @tag)
      end
    end
  end
end
