# frozen_string_literal: true

module Evrel
  module Layout
    # One part of an image onto a disk that keeps all its other partitions:
    # over one of them, or into free room.
    class PartRestore
      # @param source [Source]
      # @param target [Target]
      # @param wish [Wish]
      def initialize(source, target, wish)
        @source = source
        @target = target
        @wish = wish
        @part = source.part(wish.part)
      end

      # @return [Plan]
      # @raise [Refused] where the target has no such partition, or no table
      def plan
        @old = target_table
        @over = over
        @facts = []
        start, size = room
        number = number_for(start)
        how = Planner.how(@part, size, @target.sector)
        check(start, size, how, number)
        place = Place.new(part: @part, number: number || 0, start:, size:, how:)
        table, before = fine? ? tables(place) : nil
        Plan.new(table:, table_first: before, places: [*kept, place].sort_by(&:start), target: @target, wish: @wish, checks: @facts,
                 limit: (@old.last_usable + 1) * @old.sector, pieces: table ? Layout.pieces([place]) : [])
      end

      private

      def fine? = @facts.none? { |fact| fact.state == :no }

      def target_table
        table = @target.table
        return table if table && table.sector == @target.sector

        raise Refused.new('the target has no partition table that can be kept: restore the whole image', where: 'target')
      end

      def over
        return unless @wish.over

        @old.partitions.find { |one| one.number == @wish.over } or
          raise Refused.new("wish: over names partition #{@wish.over}, which the target does not have", where: 'over')
      end

      # @return [Array<Integer>] byte offset and size
      def room
        return [@over.start, @wish.size || @over.size] if @over

        at = (@wish.at + MIB - 1) / MIB * MIB
        [at, (@wish.size || @part.size) / @target.sector * @target.sector]
      end

      def number_for(start)
        return @over.number if @over
        return @wish.number || free_number if @old.kind == 'gpt'

        inside = @old.extended && start.between?(@old.extended.first_lba * @old.sector, (@old.extended.last_lba + 1) * @old.sector)
        inside ? nil : free_number
      end

      # @return [Integer, nil] the first that no partition has
      def free_number
        most = @old.kind == 'gpt' ? @old.entry_count : 4
        ((1..most).to_a - @old.partitions.map(&:number) - [(@old.extended&.number if @old.kind == 'mbr')].compact).first
      end

      def check(start, size, how, number)
        missing = @part.least - size
        if missing.positive?
          no('least', "#{Units.bytes(missing)} too small",
             "#{@part.word} needs #{Units.bytes(@part.least)} at the least, the room has #{Units.bytes(size)}")
        end
        no('least', "#{@part.word} cannot be #{Units.bytes(size)}", @part.limits.reason.to_s) if how == :impossible && !missing.positive?
        check_place(start, size)
        check_number(number)
        no('sectors', "#{@part.word} cannot live on sectors of #{@target.sector} bytes", 'Its volume counts in smaller ones') if
          @part.volume['sector_size'].to_i.between?(1, @target.sector - 1) && how != :remake
        say(start, size) if fine?
      end

      def check_place(start, size)
        last = start + size
        limit = (@old.last_usable + 1) * @old.sector
        no('outside', "#{Units.bytes(last - limit)} too small", "The disk has room up to #{Units.bytes(limit)}") if last > limit
        if start < @old.first_usable * @old.sector
          no('outside', 'It begins in the table',
             "Parts begin behind #{@old.first_usable * @old.sector} bytes")
        end
        other = kept_partitions.find { |one| one.start < last && one.end > start }
        return unless other

        no('overlap', "It overlaps partition #{other.number}",
           "They share #{Units.bytes([other.end, last].min - [other.start, start].max)}: make it smaller, choose other room, or " \
           "restore it over partition #{other.number}")
      end

      def check_number(number)
        unless number
          return no('number', 'No entry is free',
                    "The #{@old.kind.upcase} of the target has none left there: restore over a partition")
        end
        return if kept_partitions.none? { |one| one.number == number }

        no('number', "Number #{number} is taken", "The target has a partition #{number}")
      end

      def no(id, title, detail) = @facts << Fact.new(id:, state: :no, title:, detail:, part: @part.number)
      def ok(id, title, detail, state = :ok) = @facts << Fact.new(id:, state:, title:, detail:, part: @part.number)

      def say(start, size)
        ok('fits', 'It fits', "#{@part.word} needs #{Units.bytes(@part.least)} at the least; the room has #{Units.bytes(size)}")
        ok('neighbours', neighbours, 'Byte for byte: nothing of it is written') if kept_partitions.any?
        if (start % MIB).positive?
          ok('alignment', 'Not aligned to 1 MiB', "It begins at sector #{start / @target.sector}, as the partition before it",
             :ask)
        end
        twin = kept_partitions.find { |one| one.guid == @part.guid && !@wish.renew? && @old.kind == 'gpt' }
        return unless twin

        ok('identity', "Partition #{twin.number} has the same identity", 'It gets one of its own, or loaders would confuse the two',
           :ask)
      end

      def neighbours
        kept_partitions.one? ? '1 partition stays as it is' : "#{kept_partitions.size} partitions stay as they are"
      end

      def kept_partitions = @old.partitions.reject { |one| one == @over }

      def kept
        kept_partitions.map do |one|
          part = Part.new(number: one.number, name: one.name, role: one.role, type: one.type, guid: one.guid, attributes: one.attributes,
                          start: one.start, size: one.size, volume: {}, limits: Volume::Limits.fixed(one.size, 'it stays'), logical: false)
          Place.new(part:, number: one.number, start: one.start, size: one.size, how: :kept)
        end
      end

      # @return [Array] the table with the part, and the one without it that stands while it is written
      def tables(place)
        [with([*kept_partitions, partition(place)]), with(kept_partitions)]
      end

      def partition(place)
        type = Tables.type(@part, from: @source.kind, to: @old.kind)
        Table::Partition.new(number: place.number, type:, guid: guid(place), name: @part.name, sector: @target.sector,
                             attributes: @old.kind == @source.kind ? @part.attributes : 0,
                             first_lba: place.start / @target.sector, last_lba: (place.end / @target.sector) - 1)
      end

      # Its own, where it is not taken; the one of what it replaces, or a new one, where that was asked for.
      def guid(place)
        return format('%<disk>08x-%<number>02x', disk: @old.signature, number: place.number) if @old.kind == 'mbr'
        return @part.guid if @source.kind == 'gpt' && !@wish.renew? && kept_partitions.none? { |one| one.guid == @part.guid }

        @over && @wish.renew? ? @over.guid : Tables.made([@part.guid, @old.guid, place.number, @wish.salt])
      end

      def with(partitions)
        if @old.kind == 'gpt'
          return Table::Gpt.new(sector: @old.sector, guid: @old.guid, first_usable: @old.first_usable, last_usable: @old.last_usable,
                                partitions: partitions.sort_by(&:number), entry_count: @old.entry_count, boot_code: @old.boot_code)
                           .with_hybrid(@old.hybrid)
        end

        @old.with_entries(partitions)
      end
    end
  end
end
