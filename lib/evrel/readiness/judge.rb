# frozen_string_literal: true

module Evrel
  module Readiness
    # Judges one computer: see Readiness.
    class Judge
      DAY = 86_400
      # What these facts say decides; others are said besides.
      DECIDE = %w[age complete whole start].freeze

      # @param copies [Array<Copy>]
      # @param wish [Integer] days
      # @param drives [Array<Integer>] bytes
      # @param now [Time]
      def initialize(copies, wish:, drives:, now:)
        @copies = copies.sort_by(&:taken_at).reverse
        @wish = wish
        @drives = drives
        @now = now
      end

      # @return [Verdict]
      def verdict
        return not_possible unless best

        facts = [age, complete, whole, start, *newer, shelf, drive].compact.sort_by.with_index { |fact, at| [ORDER.index(fact.state), at] }
        doubts = facts.select { |one| DECIDE.include?(one.id) && one.state != :ok }
        Verdict.new(state: doubts.empty? ? :ready : :not_proved, copy: best, facts:, todo: todo(doubts))
      end

      private

      ORDER = %i[no ask ok].freeze
      private_constant :ORDER

      def usable = @usable ||= @copies.select(&:usable?)

      # One that is proved and new enough is better than a newer one of which nothing is known.
      # Of those that are new enough, the newest that is complete.
      def best
        @best ||= begin
          new = usable.select { |copy| days(copy.taken_at) <= @wish }
          new.find(&:proved?) || new.find(&:complete?) || usable.first
        end
      end

      def not_possible
        Verdict.new(state: :not_possible, copy: nil, facts: [fact('image', :no, nothing)], todo: :image)
      end

      def nothing
        case @copies.size
        when 0 then 'there is no image of it'
        when 1 then 'its image is damaged or not all there'
        else 'all its images are damaged or not all there'
        end
      end

      # What proving cannot change comes after what it can.
      def todo(doubts)
        return if doubts.empty?

        doubts.any? { |one| %w[whole start].include?(one.id) } ? :prove : :image
      end

      def age
        old = days(best.taken_at)
        return fact('age', :ok, "its image is #{ago(best.taken_at)} old") if old <= @wish

        fact('age', :ask, "its newest whole image is #{ago(best.taken_at)} old, #{Units.span(@wish * DAY)} are wished")
      end

      def complete
        return if best.complete?

        fact('complete', :ask, "#{Units.count(best.unread)} sectors of it could not be read when it was taken")
      end

      def whole
        return fact('whole', :ok, "checked #{ago(best.checked_at)} ago") if best.checked?
        return fact('whole', :ask, "its check is #{ago(best.checked_at)} old, it is due again") if best.state == 'whole'

        fact('whole', :ask, 'it was never read through')
      end

      def start
        case best.start
        when :reached then fact('start', :ok, "seen to start #{ago(best.started_at)} ago")
        when :not then fact('start', :no, "it did not start #{ago(best.started_at)} ago", best.said)
        when :open then fact('start', :ask, "its start was not seen to the end #{ago(best.started_at)} ago", best.said)
        else fact('start', :ask, 'it was never seen to start')
        end
      end

      # What came after the one that is spoken of.
      def newer
        after = @copies.take_while { |copy| copy != best }
        broken = after.count { |copy| !copy.usable? }
        open = after.size - broken
        [(fact('newer', :ask, "#{number(broken, 'newer image')} damaged") if broken.positive?),
         (fact('open', :ok, "#{number(open, 'newer one')} not proved yet") if open.positive?)]
      end

      def number(count, words) = count == 1 ? "a #{words} is" : "#{count} #{words}s are"

      def shelf = (fact('shelf', :ask, "shelf #{best.shelf} is not attached") unless best.attached)

      def drive
        return if best.needs.nil?
        return fact('drive', :ok, 'a drive at hand takes it') if @drives.any? { |size| size >= best.needs }

        fact('drive', :ask, "no drive at hand takes it: it needs #{Units.bytes(best.needs)}")
      end

      def fact(id, state, title, detail = nil) = Fact.new(id:, state:, title:, detail:)
      def days(time) = (@now - time) / DAY
      def ago(time) = Units.span(@now - time)
    end
  end
end
