# frozen_string_literal: true

module Evrel
  module Layout
    # What is right and wrong with parts at their places, each with a number
    # and, where something is wrong, with what would mend it.
    class Checks
      include Finding

      # @return [Array<Fact>] whether it fits comes first
      def all
        others = [SectorChecks, Meaning].map { |kind| kind.new(@source, @target, @wish, @arrange, @placed, @kind) }
        [*room, *grows, *sizes, *air, *order, *count, *others.flat_map(&:all)]
      end

      private

      # What lies behind the room for parts.
      def room
        out = @placed.select { |one| one.end > limit }
        first = @placed.find { |one| one.start < first_usable }
        begins = first && fact('outside', :no, "#{first.part.word} begins in the table", "It cannot begin before #{first_usable} bytes",
                               part: first.number)
        [out.empty? ? fits : too_small(out), begins].compact
      end

      def first_usable = @kind == 'gpt' ? (2 + (16_384 / @target.sector)) * @target.sector : @target.sector

      def fits
        least = [@arrange.least_extent, @placed.map(&:end).max].min
        fact('fits', :ok, 'It fits', "Needs #{bytes(least)} at the least; the disk has #{bytes(@target.size)}")
      end

      def too_small(out)
        last = out.map(&:end).max
        named = %w[by_hand as_in_image].include?(@wish.way) ? " (#{Units.list(out.map { |one| one.part.word })})" : ''
        files = @placed.sum { |one| one.part.used }
        words = files > limit ? "The files need #{bytes(files)}" : "The parts need #{bytes(last)}"
        fact('fits', :no, "#{bytes(last - limit)} too small", "#{words}, and there are #{bytes(limit)}#{named}: #{remedies}",
             part: out.last.number)
      end

      # Somebody asked for it.
      def grows
        part = @source.part(@wish.part) if @wish.way == 'grow' && @wish.part
        return [] if part.nil? || part.grows?

        [fact('grows', :no, "#{part.word} cannot grow", part.limits.reason || "It can be #{bytes(part.most)} at most", part: part.number)]
      end

      def remedies = Remedies.new(@source, @target, @wish).words

      # Of each part: not smaller than what its volume needs, not larger than it can be.
      def sizes = @placed.select(&:resized?).filter_map { |one| too_little(one) || too_much(one) || stays_within(one) }

      def too_little(one)
        part = one.part
        how = Planner.how(part, one.size, @target.sector)
        return unless how == :impossible || (one.size < part.size && one.size < part.least)

        why = part.limits.reason ? "; #{part.limits.reason}" : ''
        fact('least', :no, "#{part.word} cannot be #{bytes(one.size)}",
             "It needs #{bytes(part.least)}: #{bytes(part.least - one.size)} more#{why}#{instead}", part: part.number)
      end

      def too_much(one)
        part = one.part
        most = part.limits.most
        return unless most && part.resizable? && one.size > [most, part.size].max

        fact('most', :no, "#{part.word} cannot be #{bytes(one.size)}", "It can be #{bytes(most)} at most", part: part.number)
      end

      def stays_within(one)
        part = one.part
        return unless one.size - part.size >= @target.sector && Planner.how(part, one.size, @target.sector) == :copy

        unused = "#{bytes(one.size - part.size)} of it stay unused#{' until then' if part.grown_inside?}"
        fact('keeps', :ask, "#{part.word}: only the partition grows", "#{Inside.words(part.kind) || part.limits.reason}; #{unused}",
             part: part.number)
      end

      # Where nobody chose the size by hand, something else has to give.
      def instead = @wish.way != 'by_hand' && @arrange.least_extent > limit ? "; #{remedies}" : ''

      # Above what a volume needs something is wished for; where there is less room, that is said, and nothing is refused.
      def air
        return [] if @wish.way == 'by_hand'

        @placed.select { |one| one.resized? && one.size < @arrange.floor(one.part) && one.part.growable? }.map do |one|
          fact('air', :ask, "#{one.part.word} gets #{bytes(one.size - one.part.least)} of air",
               "#{bytes(@arrange.floor(one.part) - one.part.least)} above what it needs were wished for: there is no room for more",
               part: one.number)
        end
      end

      # Parts that share bytes, and logical ones without room for their record.
      def order
        @placed.each_cons(2).filter_map do |one, two|
          if one.end > two.start
            fact('overlap', :no, "#{one.part.word} and #{two.part.word} overlap",
                 "They share #{bytes([one.end, two.end].min - two.start)}: begin #{two.part.word} at #{bytes(one.end)} or later",
                 part: two.number)
          elsif @kind == 'mbr' && split_container?(two)
            fact('container', :no, "#{two.part.word} stands between logical partitions",
                 'The extended partition is one piece: put it before or behind them', part: two.number)
          end
        end
      end

      def split_container?(one)
        return false if logical?(one)

        logical = @placed.select { |other| logical?(other) }
        logical.any? { |other| other.start < one.start } && logical.any? { |other| other.start > one.start }
      end

      def count
        return [] unless @kind == 'mbr' && @source.kind == 'gpt' && @placed.size > 4

        [fact('logical', :ask, "#{@placed.size - 3} parts become logical",
              'An MBR has four entries: the fourth holds the rest, and their numbers change')]
      end
    end
  end
end
