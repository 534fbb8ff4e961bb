# frozen_string_literal: true

module Evrel
  module Match
    # Where a time lies against the trouble. Times are compared as moments:
    # their zones do not matter.
    module Moment
      module_function

      # @param time [Time]
      # @param kase [Case]
      # @return [Symbol] :before, :between, :after or :unknown
      def of(time, kase)
        return :unknown if kase.since.nil? && kase.noticed.nil?
        return :before if kase.since && time <= kase.since
        return :after if kase.noticed.nil? || time >= kase.noticed

        # Nobody knows since when: well before it was noticed may still be in trouble.
        :between
      end
    end
  end
end
