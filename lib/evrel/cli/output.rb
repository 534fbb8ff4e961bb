# frozen_string_literal: true

require 'json'

module Evrel
  class CLI
    # What the commands say: JSON to @out, messages to @err.
    module Output
      private

      # A line that overwrites itself, where somebody looks on.
      def show(what, done, total)
        return unless @err.tty? && total.positive?

        @err.print format("\r%<what>-10s %<percent>3d %%", what:, percent: done * 100 / total)
        @err.puts if done >= total
      end

      def print(value) = @out.puts(JSON.pretty_generate(value))

      def misuse(text)
        @err.puts text
        MISUSE
      end

      # @param printed [Boolean] whether it goes to standard output as JSON too
      def report(error, printed: true)
        @err.puts "evrel: #{error.message}#{" (#{error.where})" if error.where}#{"; #{error.hint}" if error.hint}"
        finding = FINDINGS.any? { |kind| error.is_a?(kind) }
        @out.puts JSON.pretty_generate(error.to_h) if printed
        finding ? FINDING : MISUSE
      end
    end
  end
end
