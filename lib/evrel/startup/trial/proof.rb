# frozen_string_literal: true

module Evrel
  module Startup
    # What a started system is asked: somebody logs in, gives a command, and
    # waits for a text. Typed on the serial line, one thing after the other.
    class Proof
      LOGIN = Course::MILESTONES[:login]
      PASSWORD = /password:\s*\z/i
      SHELL = /[#$%>]\s*\z/
      # So many looks without a prompt, and an empty line is typed: what the kernel says may stand behind it.
      PATIENCE = 16
      MOST_LINES = 5
      REFUSED = /login incorrect|authentication failure/i

      attr_reader :command, :expect

      # @param user [String]
      # @param password [String, nil] only ever typed, never kept
      # @param command [String] one line
      # @param expect [String] text that must come after it
      def initialize(user:, command:, expect:, password: nil)
        @user = user
        @password = password
        @command = command
        @expect = expect
        @step = :login
        @waited = 0
      end

      # @param text [String] all of the serial line so far
      # @yieldparam line [String] to be typed now
      # @return [Symbol, nil] :proved or :refused when it is over
      def go_on(text, &)
        case @step
        when :login then type(text, LOGIN, @user, :entered, &)
        when :entered then enter(text, &)
        when :asked then return :proved if answer(text).include?(expect)
        end
        :refused if @step != :login && tail(text).match?(REFUSED)
      end

      # @return [String, nil] what came after the command
      def answer(text) = tail(text).scrub('').sub(/\A[^\n]*\n/, '')

      private

      def enter(text, &)
        return type(text, PASSWORD, @password.to_s, :entered, &) if tail(text).match?(PASSWORD) && !@given

        nudge(&) unless tail(text).match?(SHELL)
        type(text, SHELL, command, :asked, &)
      end

      def nudge
        @waited += 1
        yield "\n" if (@waited % PATIENCE).zero? && @waited <= PATIENCE * MOST_LINES
      end

      def type(text, sign, line, following)
        return unless tail(text).match?(sign)

        @given = true if sign == PASSWORD
        @from = text.bytesize
        @step = following
        yield "#{line}\n"
        nil
      end

      # What was said since something was typed.
      def tail(text) = text.byteslice((@from || 0)..).to_s
    end
  end
end
