# frozen_string_literal: true

module Evrel
  module Match
    # What comes before what. First whose it is, then whether anything rules it
    # out, then its moment as the cause demands, then the newest; weights last.
    module Order
      RELATIONS = %i[own unclear twin other].freeze
      # After an infection or a corruption only what is from before is right.
      MOMENTS = { before: 0, unknown: 1, between: 2, after: 3 }.freeze

      module_function

      # @return [Array] for sort_by
      def key(ranking, problem)
        moment = Rules::NEWEST.include?(problem.cause) ? 0 : MOMENTS.fetch(ranking.moment)
        [RELATIONS.index(ranking.relation), ranking.ruled_out? ? 1 : 0, moment, -ranking.offer.document.taken_at.to_f, -ranking.score]
      end
    end
  end
end
