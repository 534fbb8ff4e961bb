# frozen_string_literal: true

module Evrel
  module Salvage
    # The failing disk as whoever looks for structures sees it: nothing is asked
    # for twice, and whatever was read is kept.
    class Source < Evrel::Disk::Wrapper
      # @return [Integer] reads that failed
      attr_reader :errors

      # @param disk [Disk]
      # @param store [Store]
      def initialize(disk, store)
        super(disk)
        @store = store
        @errors = 0
      end

      def read_bytes(offset, length)
        return @store.disk.read(offset, length) if @store.map.read?(offset, length)

        first, below = whole_sectors(offset, length)
        get(first, below - first).byteslice(offset - first, length)
      end

      # @param offset [Integer] bytes, at a sector
      # @param length [Integer] bytes, whole sectors
      # @return [String]
      # @raise [Unreadable] where it cannot be read: it is skipped from now on
      # @raise [Away]
      def ask(offset, length)
        bytes = @disk.read(offset, length)
        @store.take(offset, bytes)
        bytes
      rescue Unreadable => e
        raise if e.is_a?(Away)

        @errors += 1
        skip(offset, length)
        raise
      end

      # What was read before stays read.
      def skip(offset, length) = @store.map.in_state([[offset, length]], :left).each { |from, bytes| @store.map.set(from, bytes, :skipped) }

      private

      # A structure is worth more than time: where it cannot be read at once, its sectors are.
      def get(offset, length)
        return ask(offset, length) if @store.map.in_state([[offset, length]], :skipped, :bad).empty?

        piecemeal(offset, length)
      rescue Unreadable => e
        raise if e.is_a?(Away) || length == @store.map.sector

        piecemeal(offset, length)
      end

      def piecemeal(offset, length)
        sector = @store.map.sector
        @store.map.in_state([[offset, length]], :left, :skipped).each do |from, bytes|
          from.step(from + bytes - 1, sector) { |at| sector_or_bad(at, sector) }
        end
        bad, = @store.map.in_state([[offset, length]], :bad).first
        raise Unreadable.new('it cannot be read', where: "byte #{bad}") if bad

        @store.disk.read(offset, length)
      end

      def sector_or_bad(offset, length)
        ask(offset, length)
      rescue Unreadable => e
        raise if e.is_a?(Away)

        @store.map.set(offset, length, :bad)
      end

      def whole_sectors(offset, length)
        sector = @store.map.sector
        [offset / sector * sector, [(offset + length + sector - 1) / sector * sector, size].min]
      end
    end
  end
end
