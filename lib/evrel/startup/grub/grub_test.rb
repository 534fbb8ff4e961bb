# frozen_string_literal: true

module Evrel
  module Startup
    # "[ … ]" and "test" of GRUB's language: enough of it to follow what
    # distributions write.
    class GrubTest
      # @yieldparam path [String]
      # @yieldreturn [Boolean] whether there is such a file
      def initialize(&there)
        @there = there
      end

      # @param words [Array<String>] with or without the "]" at the end
      # @return [Boolean]
      def call(words)
        words = words[0..-2] if words.last == ']'
        return !call(words.drop(1)) if words.first == '!'

        joint = [['-o', :any?], ['-a', :all?]].find { |word, _| words.include?(word) }
        joint ? parts(words, joint.first).send(joint.last) { |some| call(some) } : compared(words)
      end

      private

      def parts(words, between) = words.slice_when { |one, other| [one, other].include?(between) }.reject { |some| some == [between] }

      def compared(words)
        case words
        in [left, '=' | '==' | '-eq', right] then left == right
        in [left, '!=' | '-ne', right] then left != right
        in ['-n', *text] then !text.join.empty?
        in ['-z', *text] then text.join.empty?
        in ['-s' | '-f' | '-e' | '-d', path] then @there.call(path)
        in [text] then !text.empty?
        else false
        end
      end
    end
  end
end
