# frozen_string_literal: true

module Evrel
  module Layout
    # What a layout means for the computer: how it starts, what moves, what is
    # left out, what nothing uses.
    class Meaning
      include Finding

      # Gaps below this are alignment.
      WORTH_SAYING = 8 * MIB

      # @return [Array<Fact>]
      def all = [*start_way, *code, *moved, *whole, *asleep, *absent, *left_out, *table_kind, *beyond, *unallocated]

      private

      def start_way
        return [] unless @target.firmware
        if starts?
          return [fact('starts', :ok, 'Starts the same way',
                       "#{@kind.upcase} and #{@target.firmware.upcase}, as the computer expects")]
        end

        [fact('starts', :ask, 'Look at how it starts', start_words)]
      end

      def starts?
        return false unless @kind == @source.kind
        return part?(:startup) && @kind == 'gpt' if @target.firmware == 'uefi'

        @kind == 'mbr' || @placed.any? { |one| one.part.type == Table::Types::BIOS_BOOT }
      end

      def part?(role) = @placed.any? { |one| one.part.role == role }

      def start_words
        return 'The computer starts by UEFI, and there is no start-up part' if @target.firmware == 'uefi' && !part?(:startup)
        return 'The computer starts by UEFI from an MBR: not every firmware does' if @target.firmware == 'uefi'

        'The computer starts by BIOS: a loader has to be put in front of a GPT, with a part of its own'
      end

      # A loader may lie in front of the first partition.
      def code
        return [] unless @kind == 'mbr' && @source.kind == 'mbr' && @placed.any?

        first = @source.parts.map(&:start).min
        now = @placed.map(&:start).min
        return [] if now >= first

        [fact('code', :ask, 'Less room in front of the first partition',
              "#{bytes(first)} before, #{bytes(now)} now: a loader that lies there may be cut")]
      end

      # What keeps its size and comes to lie elsewhere.
      def moved
        @placed.select { |one| one.moves? && one.part.role == :recovery }.map do |one|
          by = one.start - one.part.start
          fact('moves', :ask, "#{one.part.word} moves #{bytes(by.abs)} #{by.positive? ? 'up' : 'down'}",
               'Found by its number and identity, not by its place', part: one.number)
        end
      end

      def whole
        @placed.select { |one| one.part.volume['doubts'].to_a.any? }.map do |one|
          fact('whole', :ask, "#{one.part.word}: its map is not believed",
               "#{one.part.volume['doubts'].first.capitalize}; what it calls free goes over too", part: one.number)
        end
      end

      def asleep
        @placed.select { |one| one.part.volume['hibernated'] }.map do |one|
          fact('asleep', :ask, "A system sleeps on #{one.part.word}",
               'It wakes into what it had in memory: on the same computer, with the same drives, or it loses data', part: one.number)
        end
      end

      def absent
        @source.absent.to_a.map do |name|
          fact('absent', :ask, "#{name} is not in the image", 'It was left out when the image was taken: no part is made of it')
        end
      end

      def left_out
        @source.parts.select { |part| @wish.leave_out.include?(part.number) }.map do |part|
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
        reach = Table::Mbr::MOST_SECTORS * @target.sector
        return [] unless @kind == 'mbr' && @target.size > reach

        [fact('beyond', :ask, "#{bytes(@target.size - reach)} cannot be used", "An MBR reaches #{bytes(reach)}: a GPT reaches everything")]
      end

      def unallocated
        free = gaps.sum(&:last)
        return [] if gaps.empty? || @placed.any? { |one| one.end > limit }

        asked = @wish.free_bytes(@target.size)
        return [fact('room', :ok, "#{bytes(free)} stay unallocated", 'As you asked: room for the drive to spare itself')] if
          asked.positive? && free <= asked + WORTH_SAYING

        where = gaps.size > 3 ? "In #{gaps.size} places" : "Behind #{Units.list(gaps.map { |one, _| one.part.word })}"
        [fact('room', :ask, "#{bytes(free)} stay unallocated", "#{where}: nothing grows into it")]
      end

      # @return [Array] parts, and the bytes behind them that nothing uses
      def gaps
        @gaps ||= @placed.each_with_index.filter_map do |one, index|
          free = (@placed[index + 1]&.start || @arrange.table_limit) - one.end
          [one, free] if free >= WORTH_SAYING
        end
      end
    end
  end
end
