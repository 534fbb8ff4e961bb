# frozen_string_literal: true

module Evrel
  module Restore
    # The room of a target that a plan does not fill with clusters of the image,
    # and what becomes of it.
    class Unused
      STEP = 256 * MIB

      # @param target [Disk]
      # @param way [String] as in Manner
      def initialize(target, way)
        @target = target
        @way = way
      end

      # @return [Boolean] whether nothing is where a piece goes: it all reads as zeros
      def blank?(piece) = held(piece.target_start, piece.target_start + piece.size).none?

      # @param plan [Layout::Plan]
      # @param feeds [Feeds]
      # @param without [Array<Integer>] numbers of parts of which nothing comes
      # @return [Array<(Integer, Integer)>] byte offset and length of all room between the clusters that come
      def ranges(plan, feeds, without = [])
        return [] if held(0, @target.size).none?

        coming = plan.pieces.each_index.reject { |index| without.include?(plan.pieces[index].number) }
        filled = coming.flat_map { |index| filled(feeds[index]) }.sort
        limits = plan.part_restore? ? plan.pieces.map { |piece| [piece.target_start, piece.room] } : [[0, @target.size]]
        limits.flat_map { |from, length| between(filled, from, from + length) }
      end

      # Where nothing is, nothing is done.
      # @param ranges [Array<(Integer, Integer)>]
      # @yield often; a block that returns :stop ends it
      # @return [Integer] bytes emptied
      def empty(ranges)
        return 0 if @way == 'leave'

        runs = ranges.flat_map { |from, length| held(from, from + length) }
        runs.each do |from, length|
          from.step(from + length - 1, STEP) do |at|
            size = [STEP, from + length - at].min
            @way == 'zero' ? @target.zero(at, size) : @target.discard(at, size)
            raise Stopped.new('stopped while clearing; the disk has no partition table now', where: "byte #{at}") if
              block_given? && yield == :stop
          end
        end
        @held = nil
        runs.sum(&:last)
      end

      private

      # @return [Array<(Integer, Integer)>] where there may be data in a range
      def held(from, below)
        @held ||= @target.extents.to_a
        inside = @held.map { |offset, length| [[offset, from].max, [offset + length, below].min] }
        inside.filter_map { |first, last| [first, last - first] if last > first }
      end

      # Neighbours joined. A cluster that only partly belongs to the piece fills only that.
      def filled(feed)
        runs = []
        feed.each_batch(batch: 1024).each do |batch|
          batch.map(&:first).each { |index| runs.last&.last == index - 1 ? runs.last[1] = index : runs << [index, index] }
        end
        runs.map { |first, last| [feed.offset_of(first), feed.offset_of(last) + feed.length(last)] }
      end

      def between(filled, from, below)
        found = []
        filled.each do |first, last|
          next if last <= from || first >= below

          found << [from, first - from] if first > from
          from = [from, last].max
        end
        found << [from, below - from] if below > from
        found
      end
    end
  end
end
