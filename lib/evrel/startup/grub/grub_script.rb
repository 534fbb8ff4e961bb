# frozen_string_literal: true

require 'strscan'

module Evrel
  module Startup
    # The language of GRUB's configuration, taken apart (GNU GRUB manual,
    # "Writing full configuration files directly" and "Shell-like scripting"):
    # commands of words, "if", "while" and "for", functions, and blocks that
    # belong to a command, as in a menu entry.
    class GrubScript
      LARGEST = MIB # bytes
      MOST_TOKENS = 200_000
      DEEPEST = 40

      # words are lists of pieces, each [text, whether variables in it count];
      # block is the body of a menu entry or a submenu, or nil.
      Command = Struct.new(:words, :block, :line)
      # branches are pairs of condition and body; other is what is done where none holds.
      If = Struct.new(:branches, :other)
      # A loop; its body may never end, so it is not followed.
      Loop = Struct.new(:body)
      Function = Struct.new(:name, :body)

      # @param text [String]
      # @return [Array<Command, If, Loop, Function>]
      # @raise [Damaged] with the line
      def self.parse(text) = new(text).parse

      def initialize(text)
        @tokens = tokens(text.scrub)
        @at = 0
        @depth = 0
      end

      def parse
        list = statements([])
        wrong('something is closed that was not opened') if peek
        list
      end

      private

      # A token is [:word, pieces, line] or [:break | :open | :close, nil, line]; a line's end breaks as ";" does.
      def tokens(text)
        scanner = StringScanner.new(text)
        list = []
        @line = 1
        until scanner.eos?
          list << token(scanner) unless blank(scanner)
          raise Damaged.new('the configuration is too long', where: "line #{@line}") if list.size > MOST_TOKENS
        end
        list.compact
      end

      def blank(scanner)
        if scanner.skip(/\\\r?\n/)
          @line += 1
        else
          scanner.skip(/[ \t\r]+/) || scanner.skip(/#[^\n]*/)
        end
      end

      def token(scanner)
        if scanner.skip(/\n/) then [:break, nil, (@line += 1) - 1]
        elsif scanner.skip(/;|&&?|\|\|?/) then [:break, nil, @line]
        elsif scanner.skip(/\{(?=\s)/) then [:open, nil, @line]
        elsif scanner.skip(/\}/) then [:close, nil, @line]
        else [:word, word(scanner), @line]
        end
      end

      def word(scanner)
        pieces = []
        loop do
          if scanner.scan(/'([^']*)'|\\(.)/) then pieces << [scanner[1] || scanner[2], false]
          elsif scanner.scan(/"((?:[^"\\]|\\.)*)"/m) then pieces << [scanner[1].gsub(/\\(["\\$])/, '\1'), true]
          elsif scanner.scan(/\$\{[^}\s]*\}|[^\s;&|"'\\{}]+|\{/) then pieces << [scanner.matched, true]
          else break
          end
          @line += scanner.matched.count("\n")
        end
        return pieces unless pieces.empty?

        raise Damaged.new("a quotation mark is not closed in line #{@line}", where: "line #{@line}")
      end

      def peek = @tokens[@at]
      def take = @tokens[@at].tap { @at += 1 }

      def wrong(what)
        raise(Damaged.new("#{what} in line #{(peek || @tokens.last)&.last || 1}", where: "line #{(peek || @tokens.last)&.last || 1}"))
      end

      # @return [String, nil] a word that stands for itself
      def keyword
        kind, pieces = peek
        pieces.first.first if kind == :word && pieces.size == 1 && pieces.first.last
      end

      # @param ends [Array<String>] words at which the list ends
      def statements(ends)
        wrong('it is nested too deeply') if (@depth += 1) > DEEPEST
        list = []
        while (token = peek)
          break if token.first == :close || ends.include?(keyword)

          token.first == :break ? take : list << statement
        end
        @depth -= 1
        list
      end

      def statement
        case keyword
        when 'if' then conditional
        when 'while', 'until', 'for' then repeated
        when 'function' then function
        else command
        end
      end

      def conditional
        take
        branches = [branch]
        while keyword == 'elif'
          take
          branches << branch
        end
        other = keyword == 'else' ? (take && statements(%w[fi])) : []
        expect('fi')
        If.new(branches, other)
      end

      def branch
        condition = statements(%w[then])
        expect('then')
        [condition, statements(%w[elif else fi])]
      end

      def repeated
        take while peek && keyword != 'do'
        expect('do')
        body = statements(%w[done])
        expect('done')
        Loop.new(body)
      end

      def function
        take
        name = keyword or wrong('a function has no name')
        take
        Function.new(name, block)
      end

      def block
        take while peek&.first == :break
        wrong('a block is missing') unless peek&.first == :open
        take
        body = statements([])
        wrong('a block is not closed') unless peek&.first == :close
        take
        body
      end

      def command
        line = peek.last
        words = []
        words << take[1] while peek&.first == :word
        body = block if peek&.first == :open
        wrong('a block has no command') if words.empty?
        Command.new(words, body, line)
      end

      def expect(word)
        keyword == word ? take : wrong("“#{word}” is missing")
      end
    end
  end
end
