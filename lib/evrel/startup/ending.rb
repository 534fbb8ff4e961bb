# frozen_string_literal: true

module Evrel
  module Startup
    # How a trial start ended, and what that means in one sentence.
    class Ending
      # How Trial ends it → the outcome that is told.
      OUTCOMES = { dead: :stuck, nothing: :stuck, time_limit: :stuck, refused: :stuck }.freeze

      # @param how [Symbol] :reached, :stopped, :ended, :time_limit, :refused, or as Course#look gives it
      # @param course [Course]
      # @param awaited [String] what was waited for
      # @param seconds [Float] since the start
      def initialize(how, course:, awaited:, seconds:)
        @how = how
        @course = course
        @awaited = awaited
        @seconds = seconds
      end

      # @return [Symbol] as in Trial::Result
      def outcome = OUTCOMES.fetch(@how, @how)

      # @param text [String] of the serial line
      # @param log [String] what the emulator itself complained of
      # @param proof [Proof, nil]
      # @return [String]
      def message(text, log:, proof: nil)
        case @how
        when :reached then reached(proof)
        when :dead then "Stuck at #{@course.word}: #{last_words(text)}"
        when :nothing then nothing(text)
        when :ended then "The emulator ended by itself: #{log.empty? ? 'the system switched off' : log}"
        else WORDS.fetch(@how).call(self)
        end
      end

      # @return [String]
      def where = @course.word

      # @return [String]
      def too_late = format('Stuck at %<where>s: “%<what>s” did not appear within %<limit>d s', where:, what: @awaited, limit: @seconds)

      WORDS = {
        time_limit: :too_late.to_proc,
        loop: ->(ending) { "It starts again and again; it never came further than #{ending.where}" },
        rescue: ->(ending) { "It ended in a rescue shell, at #{ending.where}" },
        refused: ->(_) { 'The log-in was refused' },
        stopped: ->(_) { 'Stopped' }
      }.freeze
      private_constant :WORDS

      private

      def reached(proof)
        return format('Reached “%<what>s” after %<seconds>.1f s', what: @awaited, seconds: @seconds) unless proof

        format('“%<command>s” gave “%<expect>s” after %<seconds>.1f s', command: proof.command, expect: proof.expect, seconds: @seconds)
      end

      def last_words(text) = text.match(Course::DEAD).to_a.drop(1).compact.first.to_s.strip

      def nothing(text)
        text.match?(Course::DENIED) ? 'The firmware refused the loader: secure boot' : 'The firmware found nothing to start'
      end
    end
  end
end
