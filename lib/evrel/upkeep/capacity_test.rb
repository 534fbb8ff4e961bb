# frozen_string_literal: true

module Evrel
  module Upkeep
    # Whether a drive is as large as it says. False ones forget what is written
    # behind their true end, or begin anew at their start. Touches only free
    # room, and puts back what was there; WholeTest is surer, and erases.
    class CapacityTest
      PLACES = 48
      STAMP = 4096 # bytes
      # Where a false drive is likely to begin anew.
      STEPS = [256 * MIB, 10**9].freeze

      # state: :whole, :short or :unknown; true_capacity: bytes up to which it was seen to be
      # true, where it is short; places: how many were written and read back; message: one line.
      Result = Struct.new(:state, :true_capacity, :places, :tested, :message, keyword_init: true)

      # What is written to a place: its own offset, and noise that follows from it.
      def self.stamp(offset) = [offset].pack('Q<') + Random.new(offset).bytes(STAMP - 8)

      # @param disk [Disk] writable
      def initialize(disk)
        @disk = disk
      end

      # @yieldparam done [Integer]
      # @yieldparam total [Integer]; a block that returns :stop ends it
      # @return [Result]
      # @raise [Stopped, Unreadable]
      def run(&progress)
        @progress = progress
        places = places_in(free)
        return unknown if places.empty?

        candidates = candidates_for(@disk.size)
        @done = 0
        @total = candidates.size + (2 * places.size)
        with_stamps(places) do |stamps|
          wraps = candidates.find { |offset| again?(offset, stamps) }
          next short_at(wraps, places, candidates.size, 'begins anew at its start there') if wraps

          lost = places.find { |offset| tell && @disk.read(offset, STAMP) != stamps[offset] }
          lost ? short_at(good_before(lost, places), places, candidates.size, 'keeps nothing behind that') : whole(places, candidates.size)
        end
      end

      private

      def unknown
        Result.new(state: :unknown, places: 0, tested: 0,
                   message: 'There is no free room to test: only a test of the whole drive, which erases it, can tell')
      end

      def whole(places, tested)
        Result.new(state: :whole, places: places.size, tested:,
                   message: "What was written to #{places.size} places, the last at #{Units.bytes(places.last)}, was read back")
      end

      def short_at(capacity, places, tested, how)
        Result.new(state: :short, true_capacity: capacity, places: places.size, tested:,
                   message: "It says #{Units.bytes(@disk.size)}, but #{how}: at #{Units.bytes(capacity)}")
      end

      def good_before(offset, places) = places.take_while { |place| place < offset }.last.to_i + STAMP

      # @return [Array<(Integer, Integer)>] byte offset and length of what nothing uses, ascending
      def free
        map = Image::UsedMap.new(@disk)
        return [[0, @disk.size]] if map.empty?

        at = 0
        gaps = []
        map.each_run do |offset, length|
          gaps << [at, offset - at] if offset > at
          at = [at, offset + length].max
        end
        gaps << [at, @disk.size - at] if at < @disk.size
        gaps
      end

      # Spread over the whole drive, each in the free room nearest behind; the very start, where it is free.
      def places_in(gaps)
        wanted = (0...PLACES).map { |index| @disk.size * index / PLACES } + [@disk.size - STAMP]
        wanted.filter_map do |offset|
          gap = gaps.find { |from, length| aligned([from, offset].max) + STAMP <= from + length }
          aligned([gap.first, offset].max) if gap
        end.uniq.sort
      end

      def aligned(offset) = (offset + STAMP - 1) / STAMP * STAMP

      def candidates_for(size)
        powers = (20..60).map { |bits| 2**bits }
        [*powers, *STEPS.flat_map { |step| (step...size).step(step).to_a }].select { |offset| offset < size - STAMP }.map do |offset|
          offset / @disk.logical_sector * @disk.logical_sector
        end.uniq.sort
      end

      # What was there comes back last in, first out: where places are one and
      # the same, the one that was read first has what belongs there.
      def with_stamps(places)
        before = places.map { |offset| [offset, @disk.read(offset, STAMP)] }
        head = @disk.read(0, STAMP)
        stamps = places.to_h { |offset| [offset, self.class.stamp(offset)] }
        places.each do |offset|
          tell
          @disk.write(offset, stamps[offset])
        end
        @disk.flush
        @disk.drop_cache
        yield stamps.merge(start: head)
      ensure
        put_back(before) if stamps
      end

      def put_back(before)
        before.reverse_each { |offset, bytes| @disk.write(offset, bytes) }
        @disk.flush
      end

      # Whether the beginning of the drive shows again at +offset+.
      def again?(offset, stamps)
        tell
        here = @disk.read(offset, STAMP)
        start = @disk.read(0, STAMP)
        return false if start.count("\0") == STAMP

        here == start && stamps[offset].nil?
      end

      def tell
        @done += 1
        raise Stopped, 'the test was stopped; what was there before is back' if @progress&.call([@done, @total].min, @total) == :stop

        true
      end
    end
  end
end
