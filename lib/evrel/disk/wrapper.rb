# frozen_string_literal: true

module Evrel
  module Disk
    # A disk that stands before another one and answers like it; what stands
    # there for a reason overrides the `*_bytes` methods and `flush`, through
    # which everything goes. It is no Delegator on purpose: nothing that the
    # other disk could do besides is reached past it.
    class Wrapper
      include Disk

      # @param disk [Disk] the one behind
      def initialize(disk)
        @disk = disk
      end

      def size = @disk.size
      def logical_sector = @disk.logical_sector
      def physical_sector = @disk.physical_sector
      def writable? = @disk.writable?
      def discards_to_zero? = @disk.discards_to_zero?

      # Most wrappers count what goes through them.
      def fork_safe? = false

      def read_bytes(offset, length) = @disk.read(offset, length)
      def read_bytes_into(buffer, offset, length) = buffer.replace(read_bytes(offset, length))
      def write_bytes(offset, data) = @disk.write(offset, data)
      def discard_bytes(offset, length) = @disk.discard(offset, length)
      def zero_bytes(offset, length) = @disk.zero(offset, length)
      def flush = @disk.flush
      def drop_cache = @disk.drop_cache
      def extents(&) = @disk.extents(&)
      def close = @disk.close
    end
  end
end
