# frozen_string_literal: true

module Evrel
  module Disk
    # Several disks behind each other, read as one.
    class Joined
      include Disk

      attr_reader :size

      # @param disks [Array<Disk>] of sectors of one byte
      def initialize(disks)
        disks = disks.reject { |disk| disk.size.zero? }
        @starts = disks.inject([0]) { |starts, disk| starts << (starts.last + disk.size) }
        @size = @starts.pop
        @disks = disks
      end

      def logical_sector = 1
      def physical_sector = 1
      def fork_safe? = @disks.all?(&:fork_safe?)
      def close = @disks.each(&:close)

      def read_bytes(offset, length)
        out = ''.b
        while length.positive?
          index = @starts.rindex { |start| start <= offset }
          within = offset - @starts[index]
          take = [@disks[index].size - within, length].min
          out << @disks[index].read(within, take)
          offset += take
          length -= take
        end
        out
      end

      def extents
        return enum_for(:extents) unless block_given?

        @disks.zip(@starts) { |disk, start| disk.extents { |offset, length| yield start + offset, length } }
      end
    end
  end
end
