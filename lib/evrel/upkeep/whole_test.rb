# frozen_string_literal: true

module Evrel
  module Upkeep
    # The capacity test that nothing escapes, and that erases the drive. Stamps
    # are written at equal strides; the first stride is filled without a gap. On a
    # drive that begins anew at its start, wherever that is, the first stamp
    # behind its true end falls into that first stride, and is found there.
    class WholeTest
      PLACES = 2048
      STAMP = CapacityTest::STAMP
      PIECE = MIB

      # @param disk [Disk] writable; what is on it is lost
      def initialize(disk)
        @disk = disk
        @stride = [(disk.size / PLACES / PIECE) + 1, 1].max * PIECE
        @head = [@stride, disk.size / PIECE * PIECE].min
        @places = [*(@stride...(disk.size - STAMP)).step(@stride), (disk.size - STAMP) / STAMP * STAMP].uniq
      end

      # @yieldparam done [Integer]
      # @yieldparam total [Integer]; a block that returns :stop ends it
      # @return [CapacityTest::Result]
      # @raise [Stopped, Unreadable]
      def run(&progress)
        @progress = progress
        @done = 0
        @total = 2 * ((@head / PIECE) + @places.size)
        write
        capacity = anew || kept_up_to
        leave_empty
        CapacityTest::Result.new(state: capacity ? :short : :whole, true_capacity: capacity, places: @places.size + (@head / STAMP),
                                 tested: 0, message: message(capacity))
      end

      private

      def write
        0.step(@head - 1, PIECE) do |at|
          tell
          @disk.write(at, stamps(at))
        end
        @places.each do |at|
          tell
          @disk.write(at, CapacityTest.stamp(at))
        end
        @disk.flush
        @disk.drop_cache
      end

      def stamps(from) = (from...(from + PIECE)).step(STAMP).map { |at| CapacityTest.stamp(at) }.join

      # @return [Integer, nil] where the drive begins anew
      def anew
        found = nil
        0.step(@head - 1, PIECE) do |at|
          tell
          bytes = @disk.read(at, PIECE)
          next if bytes == stamps(at)

          (0...PIECE).step(STAMP) do |within|
            said = bytes[within, 8].unpack1('Q<')
            distance = said - at - within
            found = [found, distance].compact.min if distance.positive? && @places.include?(said)
          end
        end
        found
      end

      # @return [Integer, nil] the end of what it kept, where something is missing
      def kept_up_to
        lost = @places.find do |at|
          tell
          @disk.read(at, STAMP) != CapacityTest.stamp(at)
        end
        lost && (@places.take_while { |at| at < lost }.last.to_i + STAMP)
      end

      # No half of an old table stays behind.
      def leave_empty
        edge = [PIECE, @disk.size].min
        [0, @disk.size - edge].each { |at| @disk.write(at, "\0".b * edge) }
        @disk.discard(0, @disk.size)
        @disk.flush
      end

      def message(capacity)
        return "What was written to #{Units.count(@places.size)} places over the whole drive was read back" unless capacity

        "It says #{Units.bytes(@disk.size)}, but ends at #{Units.bytes(capacity)}"
      end

      def tell
        @done += 1
        raise Stopped, 'the test was stopped; what was on the drive is gone' if @progress&.call([@done, @total].min, @total) == :stop
      end
    end
  end
end
