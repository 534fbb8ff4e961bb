# frozen_string_literal: true

module Evrel
  module Layout
    # Where each part goes, by a wish. Only places: what is wrong with them is
    # said by Checks. All bytes are integers; nothing is rounded out of alignment.
    class Arrange
      # A part at its place on the target, bytes.
      Placed = Struct.new(:part, :start, :size) do
        def end = start + size
        def number = part.number
        def moves? = start != part.start
        def resized? = size != part.size
      end

      attr_reader :unit

      # @param source [Source]
      # @param target [Target]
      # @param wish [Wish]
      # @param kind [String, nil] of the table that the target gets
      def initialize(source, target, wish, kind)
        @source = source
        @target = target
        @wish = wish
        @kind = kind
        @unit = wish.align == 'image' ? alignment_of_image : MIB
        @parts = source.parts.reject { |part| wish.leave_out.include?(part.number) }
      end

      # @return [Array<Placed>] from first to last
      def call
        case @wish.way
        when 'as_in_image' then as_in_image
        when 'by_hand' then by_hand
        when 'shrink' then packed(shrunk(sizes))
        when 'grow' then packed(grown(sizes))
        else packed(spread(sizes))
        end
      end

      # @return [Integer] the first byte that no part may touch
      def limit = @limit ||= [table_limit - @wish.free_bytes(@target.size), 0].max

      # @param sizes [Hash] number of a part → bytes
      # @return [Integer] bytes that all parts need, with the room around them
      def extent(sizes) = packed(sizes).map(&:end).max || first_start

      # The smallest that a part may be made without being told by hand: with air above what its volume needs.
      # @param part [Part]
      # @return [Integer] bytes
      def floor(part)
        return part.size unless part.growable? && part.least < part.size

        up([part.least + [part.least * @wish.air / 100, @wish.air.zero? ? 0 : LEAST_AIR].max, unit].max).clamp(0, part.size)
      end

      # The smallest that a part may be made before anything is refused: swap, and what starts the computer, give room too.
      # @param part [Part]
      # @return [Integer] bytes
      def last_floor(part)
        return floor(part) unless part.resizable? && %i[startup swap].include?(part.role)

        least = part.role == :swap ? [part.least, LEAST_SWAP].max : part.least + (part.least * AIR_PERCENT / 100) + LEAST_STARTUP_AIR
        up([least, unit].max).clamp(0, part.size)
      end

      # The smallest that a part can be: air is only wished for, and gives way before anything is refused.
      # @param part [Part]
      # @return [Integer] bytes
      def bare_floor(part)
        return last_floor(part) unless part.growable? && part.least < part.size

        [up([part.least, unit].max), last_floor(part)].min
      end

      # @return [Integer] bytes that the parts need when each is as small as it can be
      def least_extent = extent(@parts.to_h { |part| [part.number, bare_floor(part)] })

      # @return [Integer] the first byte behind what the table can reach and does not need for itself
      def table_limit
        case @kind
        when 'gpt' then ((@target.size / @target.sector) - 1 - gpt_entry_sectors) * @target.sector
        when 'mbr' then [@target.size / @target.sector, Table::Mbr::MOST_SECTORS].min * @target.sector
        else @target.size
        end
      end

      private

      def gpt_entry_sectors = ((entry_count * Table::Gpt::ENTRY_SIZE) + @target.sector - 1) / @target.sector
      def entry_count = @source.kind == 'gpt' ? @source.table.entry_count : Table::Gpt::ENTRY_COUNT
      def sizes = @parts.to_h { |part| [part.number, part.size] }

      # The largest power of two that divides all starts, or the old tracks of 63 sectors.
      def alignment_of_image
        starts = @source.parts.map(&:start)
        track = 63 * @source.sector
        return track if starts.any? && starts.all? { |start| (start % track).zero? } && starts.any? { |start| (start % MIB).positive? }

        found = starts.reject(&:zero?).map { |start| start & -start }.min || MIB
        found.clamp(@target.sector, MIB)
      end

      def as_in_image = @parts.map { |part| Placed.new(part, part.start, whole_sectors(part.size)) }

      # Places that nobody named stay as in the image; named ones come to lie on the alignment.
      def by_hand
        placed = @parts.map do |part|
          place = @wish.parts[part.number] || {}
          Placed.new(part, place[:start] ? by_hand_start(part, place[:start]) : part.start, whole_sectors(place[:size] || part.size))
        end
        placed.sort_by { |one| [one.start, one.number] }
      end

      def by_hand_start(part, start) = start == part.start ? start : [up(start - (unit / 2)), unit].max
      def whole_sectors(size) = [up_to(size, @target.sector), @target.sector].max

      # Parts one behind the other, each on the alignment; logical ones with room for their record in front.
      def packed(sizes)
        at = first_start
        @parts.map do |part|
          start = up(at) + (logical?(part) ? unit : 0)
          at = start + up_to(sizes.fetch(part.number), @target.sector)
          Placed.new(part, start, at - start)
        end
      end

      # What lies in front of the first part (code of a loader) keeps its room.
      def first_start
        first = @source.parts.map { |part| part.logical ? [part.start - unit, 0].max : part.start }.min || unit
        least = @kind == 'gpt' ? (2 + gpt_entry_sectors) * @target.sector : @target.sector
        [up([first, least].max), unit].max
      end

      def logical?(part) = @kind == 'mbr' && Tables.logical?(@source.kind, @parts, part)

      # One part takes all that the others leave.
      def grown(sizes)
        part = @parts.find { |one| one.number == @wish.part } || Proposal.to_grow(@parts)
        return shrunk(sizes) unless part

        rest = limit - extent(sizes.merge(part.number => unit)) + unit
        # Behind it parts begin on the alignment, so its own size lies on it too.
        rest = down(rest)
        sizes.merge(part.number => [rest, part.most].compact.min.clamp(unit, MOST_SIZE))
      end

      def spread(sizes)
        room = limit - extent(sizes)
        return shrunk(sizes) if room.negative?

        growing = @parts.select(&:growable?)
        until growing.empty? || room < unit
          weights = growing.to_h { |part| [part.number, [@wish.by == 'used' ? part.used : part.size, 1].max] }
          growing, room = share(sizes, growing, weights, room)
        end
        sizes
      end

      # @return [Array] those that can grow further, and the room that is left for them
      def share(sizes, growing, weights, room)
        whole = weights.values.sum
        given = growing.to_h do |part|
          most = part.limits.most || MOST_SIZE
          grown = down(sizes[part.number] + (room * weights[part.number] / whole))
          [part.number, [grown, down(most)].min.clamp(sizes[part.number], MOST_SIZE)]
        end
        full = growing.reject { |part| part.limits.most && given[part.number] >= down(part.limits.most) }
        sizes.merge!(given)
        left = limit - extent(sizes)
        full.size == growing.size ? [[], left] : [full, left]
      end

      # What has most air gives first, until all fit or none has any left.
      def shrunk(sizes)
        %i[floor last_floor bare_floor].each do |floor|
          least = @parts.map { |part| [part, send(floor, part)] }.select { |part, size| size < sizes[part.number] }
          least.sort_by { |part, size| [size - part.size, part.number] }.each do |part, size|
            missing = extent(sizes) - limit
            break unless missing.positive?

            sizes[part.number] = [down(sizes[part.number] - missing), size].max
          end
        end
        sizes
      end

      def up(bytes) = up_to(bytes, @unit)
      def up_to(bytes, unit) = (bytes + unit - 1) / unit * unit
      def down(bytes) = bytes / @unit * @unit
    end
  end
end
