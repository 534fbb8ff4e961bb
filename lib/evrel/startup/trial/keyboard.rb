# frozen_string_literal: true

module Evrel
  module Startup
    # Which keys give a text, on a keyboard as the emulated machine has it until
    # its system is told of another layout (names of QKeyCode).
    module Keyboard
      PLAIN = { ' ' => 'spc', '-' => 'minus', '=' => 'equal', '[' => 'bracket_left', ']' => 'bracket_right', ';' => 'semicolon',
                "'" => 'apostrophe', '`' => 'grave_accent', '\\' => 'backslash', ',' => 'comma', '.' => 'dot', '/' => 'slash',
                "\n" => 'ret', "\t" => 'tab' }.freeze
      # Character → the one on the same key without shift.
      SHIFTED = '!@#$%^&*()_+{}:"~|<>?'.chars.zip("1234567890-=[];'`\\,./".chars).to_h.freeze

      module_function

      # @param text [String]
      # @return [Array<Array<String>>] for each character the keys that are pressed at the same time
      # @raise [Refused] for a character that this keyboard has no key for
      def keys(text) = text.each_char.map { |char| of(char) }

      def of(char)
        return [char] if char.match?(/[a-z0-9]/)
        return [PLAIN.fetch(char)] if PLAIN.key?(char)

        below = char.match?(/[A-Z]/) ? char.downcase : SHIFTED[char]
        below ? ['shift', *of(below)] : raise(Refused.new("the emulated keyboard has no key for “#{char}”", where: 'trial start'))
      end
      private_class_method :of
    end
  end
end
