# frozen_string_literal: true

module Evrel
  module Upkeep
    # Makes a drive empty: its table and the signatures of its volumes, or all
    # of it. What was done is read back from the drive.
    class Clean
      HOWS = { 'signatures' => 'Table and volume signatures', 'discard' => 'All blocks discarded',
               'overwrite' => 'All blocks overwritten' }.freeze
      # At both ends of the disk and of each volume: every superblock and backup that is looked for lies within.
      EDGE = MIB
      PIECE = 4 * MIB

      # written, checked: bytes; left: byte offset of the first place that is not empty, or nil.
      Result = Struct.new(:how, :written, :checked, :left, keyword_init: true) do
        def verified? = left.nil?
      end

      # @param disk [Disk] writable
      # @param how [String] one of HOWS
      def initialize(disk, how)
        raise ArgumentError, "#{how} is no way of cleaning" unless HOWS.key?(how)

        @disk = disk
        @how = how
      end

      # @yieldparam done [Integer] bytes
      # @yieldparam total [Integer] bytes; a block that returns :stop ends it
      # @return [Result]
      # @raise [Stopped, Unreadable, Refused]
      def run(&progress)
        @progress = progress
        @done = @written = @checked = 0
        ranges = @how == 'signatures' ? edges : [[0, @disk.size]]
        @total = ranges.sum(&:last) * 2
        ranges.each { |offset, length| send(@how, offset, length) }
        @disk.flush
        @disk.drop_cache
        left = ranges.filter_map { |offset, length| not_empty(offset, length) }.min
        Result.new(how: @how, written: @written, checked: @checked, left:)
      end

      private

      # The primary table goes first: whatever breaks afterwards, it never looks whole.
      def edges
        areas = [[0, @disk.size], *partitions.map { |part| [part.start, part.size] }]
        found = areas.flat_map do |start, size|
          edge = [EDGE, size].min
          [[start, edge], [start + size - edge, edge]]
        end
        found.uniq.select { |offset, length| offset >= 0 && offset + length <= @disk.size }
      end

      def partitions
        Table.read(@disk)&.partitions || []
      rescue Damaged
        [] # both ends of the disk go anyway
      end

      def signatures(offset, length) = overwrite(offset, length)

      def discard(offset, length)
        return overwrite(offset, length) unless @disk.discards_to_zero?

        offset.step(offset + length - 1, 1024 * MIB) do |at|
          size = [1024 * MIB, offset + length - at].min
          @disk.discard(at, size)
          @written += size
          tell(size)
        end
      end

      # Where a hole is known to be one, zeros are there already.
      def overwrite(offset, length)
        pieces(offset, length) do |at, size|
          @disk.write(at, "\0".b * size)
          @written += size
          tell(size)
        end
      end

      # @return [Integer, nil] byte offset of the first byte that is not zero
      def not_empty(offset, length)
        pieces(offset, length) do |at, size|
          found = @disk.read(at, size).index(/[^\0]/n)
          return at + found if found

          tell(size)
        end
        @checked += length
        nil
      end

      # Yields what may hold data within a range, a piece at a time.
      def pieces(offset, length)
        last = offset + length
        @disk.extents.to_a.each do |start, size|
          from = [start, offset].max
          to = [start + size, last].min
          from.step(to - 1, PIECE) { |at| yield at, [PIECE, to - at].min } if from < to
        end
      end

      def tell(bytes)
        @done += bytes
        raise Stopped, 'stopped; what was cleaned so far is gone' if @progress&.call(@done, @total) == :stop
      end
    end
  end
end
