# frozen_string_literal: true

module Evrel
  module Restore
    # Asks again, a bounded number of times, with growing waits. What came but
    # was wrong is read once more; what has gone does not come back by waiting.
    class Retry
      WAITS = [0.1, 0.5, 2.0].freeze # seconds

      # @param waits [Array<Float>] seconds before each further attempt
      def initialize(waits = WAITS)
        @waits = waits
      end

      # @param told [#call] gets each error that another attempt follows
      # @return what the block gives
      # @raise what the last attempt raised
      def call(told = ->(_) {})
        attempt = 0
        begin
          yield
        rescue Unreadable, Mismatch, Damaged => e
          raise if e.is_a?(Away) || e.is_a?(Lost) || attempt >= (e.is_a?(Unreadable) ? @waits.size : 1)

          wait = @waits[attempt]
          told.call(e)
          attempt += 1
          sleep(wait)
          retry
        end
      end
    end
  end
end
