# frozen_string_literal: true

module Evrel
  module Startup
    # How a trial start ended, and what that means in one sentence.
    class Ending
      # How Trial ends it → the outcome that is told.
      OUTCOMES = { dead: :stuck, nothing: :stuck, no_progress: :stuck, refused: :stuck, waits: :reached }.freeze

      # @param how [Symbol] :reached, :stopped, :ended, :no_progress, :slow, :passphrase, :refused, :waits, or as Course#ending gives it
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

      # @param text [String] what it said
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
      def no_progress
        format('Stuck at %<where>s: nothing moved any more, and “%<what>s” did not appear within %<limit>d s',
               where:, what: @awaited, limit: @seconds)
      end

      # @return [String]
      def slow = format('Slow: still coming on after %<seconds>d s, at %<where>s', seconds: @seconds, where:)

      # @return [String]
      def waits
        format('Reached a screen that waits, after %<seconds>.1f s: no text can be read on it, so look at its picture', seconds: @seconds)
      end

      WORDS = {
        no_progress: :no_progress.to_proc, slow: :slow.to_proc, waits: :waits.to_proc,
        passphrase: ->(_) { 'It waits for the passphrase of an encrypted volume: nobody typed it' },
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

      def last_words(text) = (text.match(Course::DEAD) || text.match(Course::HELD)).to_a.drop(1).compact.first.to_s.strip

      def nothing(text)
        text.match?(Course::DENIED) ? 'The firmware refused the loader: secure boot' : 'The firmware found nothing to start'
      end
    end
  end
end
