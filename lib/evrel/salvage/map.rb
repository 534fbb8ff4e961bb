# frozen_string_literal: true

require 'json'
require 'monitor'

module Evrel
  module Salvage
    # What became of each range of a disk. state is :left (nobody asked for it yet), :read, :skipped (a read that
    # touched it failed, or it was left behind) or :bad (its sectors were asked for one by one, in vain).
    # docs/salvage.schema.json describes it as a file.
    class Map
      FORMAT = 'evrel-salvage'
      VERSION = 1
      STATES = %i[left read skipped bad].freeze
      LARGEST = 64 * MIB # bytes of a file
      MOST = 1_000_000 # ranges

      attr_reader :size, :sector

      # @param size [Integer] bytes of the disk
      # @param sector [Integer] bytes
      # @param ranges [Array<(Integer, Integer, Symbol)>] byte offset, length and state, ascending, without a gap
      def initialize(size, sector, ranges = [[0, size, :left]])
        @size = size
        @sector = sector
        @starts = ranges.map(&:first)
        @states = ranges.map(&:last)
        @totals = STATES.to_h { |state| [state, ranges.sum { |_, length, one| one == state ? length : 0 }] }
        @lock = Monitor.new # several threads ask while one notes
      end

      # @param text [String] the file
      # @raise [Damaged, Unsupported]
      def self.parse(text)
        raise Damaged.new('a map is larger than one can be', where: 'map') if text.bytesize > LARGEST

        told = JSON.parse(text)
        raise Damaged.new('this is no map of a salvage', where: 'map') unless told.is_a?(Hash) && told['format'] == FORMAT
        raise Unsupported.new("the map has version #{told['version'].inspect}", where: 'map') unless told['version'] == VERSION

        new(told['size_bytes'], told['sector_bytes'], ranges(told))
      rescue JSON::ParserError, EncodingError
        raise Damaged.new('the map is no JSON', where: 'map')
      end

      # @raise [Damaged] where they do not lie side by side from the first byte to the last
      def self.ranges(told)
        size, sector, list = told.values_at('size_bytes', 'sector_bytes', 'ranges')
        fine = size.is_a?(Integer) && [512, 4096].include?(sector) && list.is_a?(Array) && list.size.between?(1, MOST)
        below = fine && list.reduce(0) { |at, range| at && behind(range, at) }
        raise Damaged.new('the ranges of the map do not lie side by side', where: 'map') unless below && below == size

        list.map { |offset, length, state| [offset, length, state.to_sym] }
      end

      # @return [Integer, nil] the byte behind a range that begins at a byte; nil where it is no such range
      def self.behind(range, at)
        offset, length, state = range if range.is_a?(Array)
        at + length if offset == at && length.is_a?(Integer) && length.positive? && STATES.map(&:to_s).include?(state)
      end
      private_class_method :ranges, :behind

      def to_json(*)
        JSON.generate('format' => FORMAT, 'version' => VERSION, 'size_bytes' => size, 'sector_bytes' => sector, 'ranges' => each.to_a)
      end

      # Yields byte offset, length and state of each range, ascending.
      def each
        return enum_for(:each) unless block_given?

        @starts.each_with_index { |start, at| yield [start, (@starts[at + 1] || size) - start, @states[at]] }
      end

      # @param offset [Integer] bytes
      # @param length [Integer] bytes
      def set(offset, length, state)
        @lock.synchronize { put(offset, length, state) } if length.positive?
      end

      # @return [Array<(Integer, Integer, Symbol)>] what lies within a range, cut at its ends
      def within(offset, length) = @lock.synchronize { cut(offset, offset + length) }

      # @return [Boolean] whether all of a range was read
      def read?(offset, length) = within(offset, length).all? { |_, _, state| state == :read }

      # @param ranges [Array<(Integer, Integer)>] byte offset and length, ascending
      # @return [Array<(Integer, Integer)>] what of them is in a state
      def in_state(ranges, *states)
        ranges.flat_map { |offset, length| within(offset, length).select { |_, _, state| states.include?(state) } }
              .map { |offset, length, _| [offset, length] }
      end

      # @return [Integer] bytes of the whole disk that are in a state
      def total(state) = @totals.fetch(state)

      private

      def put(offset, length, state)
        cut(offset, offset + length).each { |_, bytes, before| @totals[before] -= bytes }
        @totals[state] += length
        first = split(offset)
        last = split(offset + length)
        @starts[first...last] = [offset]
        @states[first...last] = [state]
        join(first + 1)
        join(first)
      end

      def cut(first, behind)
        at = index(first)
        found = []
        while at < @starts.size && @starts[at] < behind
          from = [@starts[at], first].max
          found << [from, [@starts[at + 1] || size, behind].min - from, @states[at]]
          at += 1
        end
        found
      end

      # @return [Integer] place of the range in which a byte lies
      def index(offset) = (@starts.bsearch_index { |start| start > offset } || @starts.size) - 1

      # @return [Integer] place of the range that begins at a byte, from now on
      def split(offset)
        return @starts.size if offset >= size

        at = index(offset)
        return at if @starts[at] == offset

        @starts.insert(at + 1, offset)
        @states.insert(at + 1, @states[at])
        at + 1
      end

      # Neighbours of one state become one range.
      def join(at)
        return unless at.between?(1, @starts.size - 1) && @states[at] == @states[at - 1]

        @starts.delete_at(at)
        @states.delete_at(at)
      end
    end
  end
end
