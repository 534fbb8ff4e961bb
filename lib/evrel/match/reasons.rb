# frozen_string_literal: true

module Evrel
  module Match
    # The one line that says why an image stands where it stands.
    class Reasons
      # @param ranked [Array<Ranking>] in order
      # @param problem [Problem]
      def initialize(ranked, problem)
        @ranked = ranked
        @problem = problem
        @best = ranked.find { |ranking| ranking.relation == :own && !ranking.ruled_out? }
      end

      # @return [Array<Ranking>] the same, with their reasons
      def give = @ranked.each { |ranking| ranking.why = why(ranking) }

      private

      def why(ranking)
        return stranger(ranking) unless ranking.relation == :own
        return against(ranking) if ranking.ruled_out?
        return best(ranking) if ranking.equal?(@best)

        case ranking.moment
        when :after then Rules::NEWEST.include?(@problem.cause) ? 'Taken after the trouble began' : 'The trouble may be in it'
        when :between then 'From the time in which the trouble began'
        else ranking.offer.document.taken_at < @best.offer.document.taken_at ? 'Good, but older' : 'Good, but less fits'
        end
      end

      def stranger(ranking)
        { twin: 'Twin computer: same model, other name', unclear: 'Nothing in it says whose it is', other: 'Of another computer' }
          .fetch(ranking.relation) + (ranking.ruled_out? ? "; #{against(ranking).sub(/\A\w/, &:downcase)}" : '')
      end

      def against(ranking)
        fact = ranking.facts.find { |one| one.state == :no && one.id != 'shelf' }
        %w[whole].include?(fact.id) ? "#{fact.title}: #{fact.detail}" : fact.title
      end

      def best(ranking)
        whole = 'whole ' if ranking.offer.state == 'whole'
        words = if ranking.moment == :before && !Rules::NEWEST.include?(@problem.cause) then "Last #{whole}image before the trouble"
                elsif ranking.moment == :before && newest_before? then "Newest #{whole}image, from before the trouble"
                else "Newest #{whole}image"
                end
        ranking.offer.reachable ? words : "#{words}; it has to be fetched"
      end

      def newest_before? = @ranked.none? { |ranking| ranking.relation == :own && ranking.moment == :after && !ranking.ruled_out? }
    end
  end
end
