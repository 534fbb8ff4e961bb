# frozen_string_literal: true

module Evrel
  module Startup
    # Makes of one screen after the other a text that only grows, as a serial
    # line gives it: what was scrolled off stays, and a line that goes on goes on.
    class Transcript
      IN_PLACE = 2 # lines of a screen that may change where they stand

      def initialize
        @gone = []
        @rows = []
      end

      # @param rows [Array<String>] of a screen, without the empty ones at its end
      def add(rows)
        @gone.concat(@rows.first(scrolled(rows)))
        @rows = rows
      end

      # @return [String]
      def to_s = [*@gone, *@rows].join("\n")

      private

      # @return [Integer] how many of the rows before stand there no more
      def scrolled(rows)
        *whole, last = @rows
        return 0 if last.nil? || @rows.zip(rows).count { |before, now| before != now } <= IN_PLACE

        (0..whole.size).find { |by| rows.first(whole.size - by) == whole.drop(by) && rows[whole.size - by].to_s.start_with?(last) } ||
          @rows.size
      end
    end
  end
end
