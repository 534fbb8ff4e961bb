# frozen_string_literal: true

module Evrel
  module Match
    # Lets every rule look at one image.
    class Judge
      def initialize(offer, problem)
        @offer = offer
        @problem = problem
      end

      # @return [Ranking] without its one-line reason
      def ranking
        kinship = Kinship.new(@offer.document, @problem)
        marks = kinship.marks + Rules::ALL.filter_map { |rule| rule.call(@offer, @problem, kinship.relation) }
        Ranking.new(offer: @offer, relation: kinship.relation, moment: Moment.of(@offer.document.taken_at, @problem), marks:,
                    score: marks.sum(&:weight))
      end
    end
  end
end
