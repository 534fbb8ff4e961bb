# frozen_string_literal: true

module Evrel
  module Match
    # Where a time lies against the trouble. Times are compared as moments:
    # their zones do not matter.
    module Moment
      module_function

      # @param time [Time]
      # @param problem [Problem]
      # @return [Symbol] :before, :between, :after or :unknown
      def of(time, problem)
        return :unknown if problem.since.nil? && problem.noticed.nil?
        return :before if problem.since && time <= problem.since
        return :after if problem.noticed.nil? || time >= problem.noticed

        # Nobody knows since when: well before it was noticed may still be in trouble.
        :between
      end
    end
  end
end
