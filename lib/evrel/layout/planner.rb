# frozen_string_literal: true

module Evrel
  module Layout
    # Makes the plan for an image, a target and a wish. Pure: it reads nothing,
    # and the same input gives the same plan. A plan that cannot be written
    # says so in its checks; only a wish that makes no sense is refused.
    class Planner
      OUTSIDE = 'Outside of the parts'

      # @param source [Source]
      # @param target [Target]
      # @param wish [Wish, Hash]
      def initialize(source, target, wish = {})
        @source = source
        @target = target
        @wish = Wish.of(wish)
      end

      # @return [Plan]
      # @raise [Refused] where the wish names a part that the image does not have
      def plan
        return whole unless @source.kind

        check_numbers
        return PartRestore.new(@source, @target, @wish).plan if @wish.part_restore?

        arrange = Arrange.new(@source, @target, @wish, kind)
        placed = arrange.call
        checks = Checks.new(@source, @target, @wish, arrange, placed, kind)
        facts = checks.all
        table = made(arrange, placed, facts) if facts.none? { |fact| fact.state == :no }
        tables = Tables.new(@source, @target, @wish, kind, arrange.unit)
        places = places(placed, tables.numbers(placed))
        pieces = table ? pieces(table, places) : []
        facts += stays_behind(pieces) if table
        Plan.new(table:, places:, target: @target, wish: @wish, checks: facts, limit: arrange.table_limit, disk_guid: @source.table.guid,
                 pieces:)
      end

      # How the bytes of a part come to the target.
      # @param part [Part]
      # @param size [Integer] bytes on the target
      # @param sector [Integer] of the target
      # @return [Symbol] see Place; :impossible where nothing can do it
      def self.how(part, size, sector)
        # A last sector that is larger than the image's is no change.
        change = size.between?(part.size, part.size + sector - 1) ? 0 : size - part.size
        # What the volume does not reach can be cut off a partition, whatever lies in it.
        claimed = part.volume['size_bytes']
        fits = change.zero? || (change.negative? && !claimed.nil? && size >= claimed)
        return fits || change.positive? ? :copy : :impossible unless part.limits.resizer

        # What growing changes is kept by clusters of the image: those of the part must begin where it does.
        part.limits.resizer.how(change, fits:, sector:, least_sector: part.volume['sector_size'].to_i,
                                        above: (part.start % Image::CLUSTER).zero?)
      end

      private

      # @return [String] of the table that the target gets
      def kind = @wish.table || @source.kind

      def check_numbers
        known = @source.parts.map(&:number)
        [['part', [@wish.part].compact], ['leave_out', @wish.leave_out], ['parts', @wish.parts.keys]].each do |field, numbers|
          unknown = numbers - known
          raise Refused.new("wish: #{field} names partition #{unknown.first}, which the image does not have", where: field) if unknown.any?
        end
        raise Refused.new('wish: leave_out leaves nothing to write', where: 'leave_out') if known.any? && (known - @wish.leave_out).empty?
      end

      # What can still be wrong is found by making the table.
      def made(arrange, placed, facts)
        Tables.new(@source, @target, @wish, kind, arrange.unit).build(placed)
      rescue DoesNotFit, Damaged => e
        facts << Fact.new(id: 'table', state: :no, title: 'No table can hold it', detail: e.message)
        nil
      end

      def places(placed, numbers)
        placed.map do |one|
          Place.new(part: one.part, number: numbers.fetch(one.number), start: one.start, size: one.size,
                    how: self.class.how(one.part, one.size, @target.sector))
        end
      end

      def pieces(table, places)
        [code_piece(table), *outside_pieces(table, places), *Layout.pieces(places)].compact
      end

      # What no table speaks of comes along at its place: in front of the parts, and elsewhere on a disk of the same size,
      # since whoever put it there counts from the end.
      def outside_pieces(table, places)
        return [] unless @source.sector == @target.sector && @source.kind == table.kind

        taken = places.map { |place| [place.start, place.size] } + Image::Outside.areas(table, @target.size)
        @source.outside.to_a.select { |range| comes_along?(range, taken) }.map do |start, size|
          Piece.new(number: nil, name: OUTSIDE, role: :reserved, image_start: start, target_start: start, size:, room: size, how: :copy)
        end
      end

      def comes_along?((start, size), taken)
        return false if taken.any? { |from, length| from < start + size && from + length > start }

        @target.size == @source.size || start + size <= @source.parts.map(&:start).min.to_i
      end

      def stays_behind(pieces)
        left = @source.outside.to_a.sum(&:last) - pieces.select { |piece| piece.name == OUTSIDE }.sum(&:size)
        return [] unless left.positive?

        [Fact.new(id: 'behind', state: :ask, title: "#{Units.bytes(left)} outside of the parts stay behind",
                  detail: 'What lies there (of a firmware, or a loader of its own) has its place on a disk of the same size only')]
      end

      # What a loader has put in front of the first partition comes along, where there is as much room.
      def code_piece(table)
        return unless table.kind == 'mbr' && @source.kind == 'mbr' && @source.sector == @target.sector

        start, size = table.code_area
        size = [size, @source.table.code_area.last].min
        return unless size.positive?

        Piece.new(number: nil, name: 'Start-up code', role: :startup, image_start: start, target_start: start, size:, room: size,
                  how: :copy)
      end

      # A disk without a table that is known: everything, its first cluster last,
      # since that is what makes it look whole.
      def whole
        missing = @source.size - @target.size
        facts = [missing.positive? ? too_small(missing) : fits]
        head = [Image::CLUSTER, @source.size].min
        pieces = [[head, @source.size - head, 'Whole disk'], [0, head, 'First sectors']].map do |start, size, name|
          Piece.new(number: nil, name:, role: :data, image_start: start, target_start: start, size:, room: size, how: :copy)
        end
        Plan.new(places: [], target: @target, wish: @wish, checks: facts, pieces: pieces.select { |piece| piece.size.positive? })
      end

      def fits
        Fact.new(id: 'fits', state: :ok, title: 'It fits',
                 detail: "Needs #{Units.bytes(@source.size)}; the disk has #{Units.bytes(@target.size)}")
      end

      def too_small(missing)
        Fact.new(id: 'fits', state: :no, title: "#{Units.bytes(missing)} too small",
                 detail: "the image's disk is #{Units.bytes(missing)} larger than the target, and without a table nothing of it can shrink")
      end
    end
  end
end
