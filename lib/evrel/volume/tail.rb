# frozen_string_literal: true

module Evrel
  module Volume
    # Small pieces of a disk of which many lie at its end: that is read once.
    class Tail
      # @param disk [Disk]
      # @param length [Integer] bytes at the end that are read at once
      def initialize(disk, length)
        @disk = disk
        @start = [disk.size - length, 0].max
      end

      # @return [String] shorter, or empty, where the disk has no such bytes
      # @raise [Unreadable]
      def read(offset, length)
        return ''.b if offset.negative? || offset >= @disk.size

        length = [length, @disk.size - offset].min
        return @disk.read(offset, length) if offset < @start

        @bytes ||= @disk.read(@start, @disk.size - @start)
        @bytes.byteslice(offset - @start, length)
      end
    end
  end
end
