# frozen_string_literal: true

module Evrel
  module Layout
    # What is right and wrong with parts at their places, each with a number
    # and, where something is wrong, with what would mend it.
    class Checks
      # @param source [Source]
      # @param target [Target]
      # @param wish [Wish]
      # @param arrange [Arrange]
      # @param placed [Array<Arrange::Placed>]
      # @param kind [String] of the table that the target gets
      def initialize(source, target, wish, arrange, placed, kind)
        @source = source
        @target = target
        @wish = wish
        @arrange = arrange
        @placed = placed
        @kind = kind
      end

      # @return [Array<Fact>] the worst first within what belongs together
      def all
        [*room, *sizes, *order, *count, *sectors, *start_way, *alignment, *moved, *left_out, *table_kind, *beyond, *unallocated]
      end

      private

      def fact(id, state, title, detail, part: nil) = Fact.new(id:, state:, title:, detail:, part:)
      def bytes(number) = Units.bytes(number)
      def limit = @arrange.limit

      # What lies behind the room for parts.
      def room
        out = @placed.select { |one| one.end > limit }
        first = @placed.find { |one| one.start < first_usable }
        found = []
        found << fact('outside', :no, "#{first.part.word} begins in the table", "It cannot begin before #{first_usable} bytes", part: first.number) if first
        return [*found, fits] if out.empty?

        missing = out.map(&:end).max - limit
        named = @wish.way == 'by_hand' || @wish.way == 'as_in_image' ? " (#{Units.list(out.map { |one| one.part.word })})" : ''
        [*found, fact('fits', :no, "#{bytes(missing)} too small", "The parts need #{bytes(out.map(&:end).max)}, and there are #{bytes(limit)}#{named}: " \
                                                                   "#{Remedies.new(@source, @target, @wish).words}", part: out.last.number)]
      end

      def first_usable = @kind == 'gpt' ? (2 + (16_384 / @target.sector)) * @target.sector : @target.sector

      def fits
        fact('fits', :ok, 'It fits', "Needs #{bytes([@arrange.least_extent, @placed.map(&:end).max].min)} at the least; the disk has #{bytes(@target.size)}")
      end

      # Of each part: not smaller than what its volume needs, not larger than it can be.
      def sizes
        @placed.filter_map { |one| size_of(one) }
      end

      def size_of(one)
        part = one.part
        return unless one.resized?

        how = Planner.how(part, one.size, @target.sector)
        if how == :impossible || (one.size < part.size && one.size < part.least)
          why = part.limits.reason ? "; #{part.limits.reason}" : ''
          needs = "It needs #{bytes(part.least)}: #{bytes(part.least - one.size)} more#{why}#{instead}"
          return fact('least', :no, "#{part.word} cannot be #{bytes(one.size)}", needs, part: part.number)
        end
        most = part.limits.most
        return fact('most', :no, "#{part.word} cannot be #{bytes(one.size)}", "It can be #{bytes(most)} at most", part: part.number) if
          most && part.resizable? && one.size > [most, part.size].max

        return unless how == :copy && one.size > part.size

        fact('keeps', :ask, "#{part.word}: only the partition grows", "#{part.limits.reason}; #{bytes(one.size - part.size)} of it stay unused",
             part: part.number)
      end

      # Where nobody chose the size by hand, something else has to give.
      def instead
        return '' if @wish.way == 'by_hand'

        @arrange.least_extent > limit ? "; #{Remedies.new(@source, @target, @wish).words}" : ''
      end

      # Parts that share bytes, and logical ones without room for their record.
      def order
        @placed.each_cons(2).filter_map do |one, two|
          if one.end > two.start
            fact('overlap', :no, "#{one.part.word} and #{two.part.word} overlap", "They share #{bytes([one.end, two.end].min - two.start)}", part: two.number)
          elsif @kind == 'mbr' && split_container?(two)
            fact('container', :no, "#{two.part.word} stands between logical partitions", 'The extended partition is one piece: put it before or behind them',
                 part: two.number)
          end
        end
      end

      def split_container?(one)
        return false if logical?(one)

        logical = @placed.select { |other| logical?(other) }
        logical.any? { |other| other.start < one.start } && logical.any? { |other| other.start > one.start }
      end

      def logical?(one) = @source.kind == 'mbr' ? one.part.logical : Tables.logical?(@placed.map(&:part), one.part)

      def count
        return [] unless @kind == 'mbr' && @source.kind == 'gpt' && @placed.size > 4

        [fact('logical', :ask, "#{@placed.size - 3} parts become logical", 'An MBR has four entries: the fourth holds the rest, and their numbers change')]
      end

      # What cannot live on the target's sectors.
      def sectors
        return [] if @source.sector == @target.sector

        words = "#{@source.sector} to #{@target.sector} bytes"
        bad = @placed.select { |one| stuck?(one.part) }
        remade = @placed.select { |one| Planner.how(one.part, one.size, @target.sector) == :remake }
        gap = @source.kind == 'mbr' && @target.firmware == 'bios'
        [*bad.map { |one| fact('sectors', :no, "#{one.part.word} cannot live on sectors of #{@target.sector} bytes", stuck_words(one.part), part: one.number) },
         fact('sector', gap ? :ask : :ok, "Sectors change from #{words}", [
           'The table counts anew', ("#{Units.list(remade.map { |one| one.part.word + becomes(one) })} is made anew with the same files" if remade.any?),
           ('code in front of the first partition stays behind: it will not start by BIOS' if gap)
         ].compact.join('; '))]
      end

      def becomes(one)
        return '' unless one.part.kind == 'fat32'

        Resize::Fat.bits(32, one.part.volume['block_size'].to_i, one.size, @target.sector) == 16 ? ' (as FAT16)' : ''
      end

      # Volumes that count in smaller sectors than the drive has.
      def stuck?(part)
        return false if @target.sector <= @source.sector || part.limits.way == :fat

        %w[exfat xfs iso9660].include?(part.kind) || part.volume['sector_size'].to_i.between?(1, @target.sector - 1)
      end

      def stuck_words(part)
        "Its #{part.kind} counts in units of #{part.volume['sector_size'] || 512} bytes: leave it out, or choose a drive with sectors of #{@source.sector}"
      end

      def start_way
        return [] unless @target.firmware

        wanted = @target.firmware == 'uefi' ? 'gpt' : 'mbr'
        startup = @placed.any? { |one| one.part.role == :startup }
        return [fact('starts', :ok, 'Starts the same way', "#{@kind.upcase} and #{@target.firmware.upcase}, as the computer expects")] if
          wanted == @kind && @source.kind == @kind && (@kind == 'mbr' || startup)

        [fact('starts', :ask, 'Look at how it starts', start_words(startup))]
      end

      def start_words(startup)
        return 'The computer starts by UEFI, and there is no start-up part' if @target.firmware == 'uefi' && !startup
        return 'The computer starts by UEFI from an MBR: not every firmware does' if @target.firmware == 'uefi'

        'The computer starts by BIOS: a loader has to be put in front of a GPT, with a part of its own'
      end

      def alignment
        within = @placed.select { |one| (one.start % @target.sector).nonzero? }
        return within.map { |one| within_sector(one) } if within.any?

        off = @placed.find { |one| (one.start % @arrange.unit).nonzero? }
        return [old_tracks] if @arrange.unit % MIB != 0 && @arrange.unit == 63 * @source.sector
        return [aligned] unless off || (@arrange.unit % MIB).nonzero?

        off ||= @placed.find { |one| (one.start % MIB).nonzero? }
        off ? [not_whole(off)] : [aligned]
      end

      def within_sector(off)
        fact('sector_align', :no, "#{off.part.word} begins within a sector", "Byte #{off.start} is no multiple of #{@target.sector}: let it move",
             part: off.number)
      end

      def aligned = fact('alignment', :ok, 'Aligned to 1 MiB', "Suits the #{@target.physical_sector}-byte sectors of this drive")

      def not_whole(off)
        where = "#{off.part.word} begins at sector #{off.start / @target.sector}"
        return fact('alignment', :ok, "Aligned to #{@target.physical_sector} bytes", "As in the image: #{where}", part: off.number) if
          (off.start % @target.physical_sector).zero?

        fact('alignment', :ask, "#{off.part.word} is not aligned", "#{where}: slower on this drive, as it was in the image", part: off.number)
      end

      def old_tracks
        fact('alignment', :ask, 'Kept on old tracks of 63 sectors',
             "As in the image: slower on a drive with sectors of #{@target.physical_sector} bytes; aligned to 1 MiB it would be as fast as it can be")
      end

      # What keeps its size and comes to lie elsewhere.
      def moved
        @placed.select { |one| one.moves? && one.part.role == :recovery }.map do |one|
          by = one.start - one.part.start
          fact('moves', :ask, "#{one.part.word} moves #{bytes(by.abs)} #{by.positive? ? 'up' : 'down'}", 'Found by its number and identity, not by its place',
               part: one.number)
        end
      end

      def left_out
        gone = @source.parts.select { |part| @wish.leave_out.include?(part.number) }
        gone.map do |part|
          words = part.role == :swap ? 'The system starts without swap, or waits for it' : "#{bytes(part.used)} of it are not restored"
          words += '; the computer will not start without it' if %i[startup system].include?(part.role)
          fact('left_out', :ask, "#{part.word} is left out", words, part: part.number)
        end
      end

      def table_kind
        return [] if @kind == @source.kind

        words = if @kind == 'gpt'
                  'Partitions get identities of their own, code in front of the first stays behind: for a computer that starts by UEFI'
                else
                  'Names and identities of the partitions stay behind; it starts by BIOS only with a loader in front of the first'
                end
        [fact('table', :ask, "#{@source.kind.upcase} becomes #{@kind.upcase}", words)]
      end

      # An MBR counts sectors in 32 bits.
      def beyond
        lost = @target.size - (Table::Mbr::MOST_SECTORS * @target.sector)
        return [] unless @kind == 'mbr' && lost.positive?

        [fact('beyond', :ask, "#{bytes(lost)} cannot be used", "An MBR reaches #{bytes(Table::Mbr::MOST_SECTORS * @target.sector)}: a GPT reaches everything")]
      end

      def unallocated
        free = @arrange.table_limit - @placed.map(&:end).max.to_i
        return [] unless free > MIB

        asked = @wish.free_bytes(@target.size)
        return [fact('room', :ok, "#{bytes(free)} stay unallocated", 'As you asked: room for the drive to spare itself')] if
          asked.positive? && free <= asked + (2 * MIB)

        [fact('room', :ask, "#{bytes(free)} stay unallocated", 'Behind the last part: this layout does not grow anything into it')]
      end
    end
  end
end
