# frozen_string_literal: true

module Evrel
  module Match
    # Lets every rule look at one image.
    class Judge
      def initialize(offer, kase)
        @offer = offer
        @case = kase
      end

      # @return [Ranking] without its one-line reason
      def ranking
        kinship = Kinship.new(@offer.document, @case)
        marks = kinship.marks + Rules::ALL.filter_map { |rule| rule.call(@offer, @case, kinship.relation) }
        Ranking.new(offer: @offer, relation: kinship.relation, moment: Moment.of(@offer.document.taken_at, @case), marks:,
                    score: marks.sum(&:weight))
      end
    end
  end
end
