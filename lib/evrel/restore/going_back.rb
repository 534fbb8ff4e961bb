# frozen_string_literal: true

module Evrel
  module Restore
    # Goes past what a failing source does not give at once, and comes back to it.
    class GoingBack
      # @param leftover [Leftover]
      # @param decisions [Decisions]
      # @param meter [Meter]
      # @yieldreturn :stop ends it; asked often
      def initialize(leftover, decisions, meter, &tell)
        @leftover = leftover
        @decisions = decisions
        @meter = meter
        @tell = tell
      end

      # @param indexes [Array<Integer>] clusters that were not given
      def leave(indexes) = @leftover.add(indexes)

      # Reads what was left of a piece, and writes it. Which of it was written before, no journal says: it is little.
      # @param feed [Feed]
      # @param fetch [Fetch] from it, which writes by itself
      # @raise [Stopped]
      # @raise [Trouble] what could not be had, unless somebody has decided about it
      def over(feed, fetch)
        indexes = @leftover.clusters(feed.piece)
        return if indexes.empty?

        read(indexes, feed.piece.number)
        indexes.each { |index| @meter.late(fetch.batch([[index, feed.digest(index)]], nil)) }
      end

      def close = @leftover.close

      private

      def read(indexes, part)
        told = lambda do |progress|
          @meter.back = progress
          @tell.call
        end
        done = @leftover.read(indexes, told) { |index| @decisions.zeros?(index, part) }
        return if done

        raise Stopped.new('stopped while going back to what the source did not give', where: 'source', hint: 'it can go on from here')
      ensure
        @meter.back = nil
      end
    end
  end
end
