# frozen_string_literal: true

module Evrel
  module Disk
    # One partition of a disk, seen as a disk of its own; or the bytes of a
    # file, seen as a disk with sectors.
    class Window
      include Disk

      attr_reader :size, :start, :logical_sector

      # A file's bytes as a disk: what is behind the last whole sector cannot be addressed.
      # @param source [Disk] of sectors of one byte
      def self.of_file(source) = new(source, 0, source.size / 512 * 512, logical_sector: 512)

      # @param disk [Disk] the whole disk
      # @param start [Integer] first byte of the window on it
      # @param size [Integer] bytes
      # @param logical_sector [Integer] bytes; that of the disk where it is left out
      # @raise [OutOfRange] where the window leaves the disk
      def initialize(disk, start, size, logical_sector: disk.logical_sector)
        if start.negative? || size.negative? || start + size > disk.size
          raise OutOfRange.new("a window of #{size} bytes at #{start} leaves the disk of #{disk.size} bytes",
                               where: "byte #{start}")
        end
        @disk = disk
        @start = start
        @size = size
        @logical_sector = logical_sector
      end

      def physical_sector = [@disk.physical_sector, logical_sector].max
      def writable? = @disk.writable?
      def discards_to_zero? = @disk.discards_to_zero?
      def fork_safe? = @disk.fork_safe?
      def read_bytes(offset, length) = @disk.read(start + offset, length)
      def read_bytes_into(buffer, offset, length) = @disk.read_into(buffer, start + offset, length)
      def write_bytes(offset, data) = @disk.write(start + offset, data)
      def discard_bytes(offset, length) = @disk.discard(start + offset, length)
      def zero_bytes(offset, length) = @disk.zero(start + offset, length)
      def flush = @disk.flush
      def drop_cache = @disk.drop_cache
      def close = @disk.close

      def extents
        return enum_for(:extents) unless block_given?

        @disk.extents do |offset, length|
          from = [offset, start].max
          to = [offset + length, start + size].min
          yield from - start, to - from if to > from
        end
      end
    end
  end
end
