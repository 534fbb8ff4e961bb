# frozen_string_literal: true

module StandIns
  module Disk
    # A disk that behaves as failing and false ones do.
    class Faulty < Evrel::Disk::Wrapper
      # @param disk [Disk]
      # @param unreadable [Array<(Integer, Integer)>] byte offset and length of places that cannot be
      #   read; a read that touches one fails as a whole, like the system's
      # @param unwritable [Array<(Integer, Integer)>] the same for writes: what lies before the place is taken
      # @param wears_out_after [Integer, nil] bytes after which it takes no write any more; it is still read
      # @param hiccups [Integer, nil] one operation in so many fails, and works when it is asked again
      # @param flips [Array<(Integer, Integer)>] places of which the lowest bit of every byte comes back wrong
      # @param true_capacity [Integer, nil] bytes behind which it begins anew at its start
      # @param reluctant [Array<(Integer, Integer, Numeric)>] byte, tries and seconds: a read that touches it fails so often,
      #   and takes so long
      # @param gives_out_after [Integer, nil] bytes that it still moves before it falls silent
      # @yield once, when it falls silent
      def initialize(disk, unreadable: [], unwritable: [], wears_out_after: nil, hiccups: nil, flips: [], true_capacity: nil,
                     reluctant: [], gives_out_after: nil, &on_end)
        super(disk)
        @unreadable = unreadable
        @unwritable = unwritable
        @wears_out_after = wears_out_after
        @hiccups = hiccups
        @operations = @taken = 0
        @flips = flips
        @true_capacity = true_capacity
        @reluctant = reluctant.map(&:dup)
        @left = gives_out_after
        @on_end = on_end
      end

      def read_bytes(offset, length)
        move(length)
        hiccup(offset)
        bad, = @unreadable.find { |from, size| overlap?(from, size, offset, length) }
        bad ||= refusing(offset, length)
        raise Evrel::Unreadable.new('input/output error', where: "byte #{[bad, offset].max}") if bad

        bytes = pieces(offset, length).map { |at, size| @disk.read(at, size) }.join
        flipped(bytes, offset)
      end

      # What cannot be read may hold something.
      def extents(&)
        return enum_for(:extents) unless block_given?

        inside = @unreadable.filter_map { |from, length| [from, [length, size - from].min] if from < size }
        Evrel::Volume::Runs.union(@disk.extents.to_a + inside, &)
      end

      def write_bytes(offset, data)
        stored(offset, data.bytesize) { |at, from, length| @disk.write(at, data.byteslice(from, length)) }
      end

      # As a write of so many zeros.
      def zero_bytes(offset, length) = stored(offset, length) { |at, _, size| @disk.zero(at, size) }

      def discard_bytes(offset, length)
        move(0)
        pieces(offset, length).each { |at, size| @disk.discard(at, size) }
      end

      def flush
        move(0)
        super
      end

      private

      # @return [Integer, nil] a byte that is not given yet
      def refusing(offset, length)
        touched = @reluctant.select { |from,| overlap?(from, 1, offset, length) }
        touched.each { |_, _, seconds| sleep seconds if seconds }
        place = touched.find { |_, tries,| tries.positive? } or return

        place[1] -= 1
        place.first
      end

      # Takes what lies before the first place that takes nothing.
      # @yieldparam at [Integer] byte on the disk
      # @yieldparam from [Integer] byte of what is to be written
      # @yieldparam length [Integer]
      def stored(offset, length)
        move(length)
        hiccup(offset)
        bad = bad_place(offset, length)
        taken = bad ? bad - offset : length
        from = 0
        pieces(offset, taken).each do |at, size|
          yield at, from, size if size.positive?
          from += size
        end
        @taken += taken
        raise Evrel::Unreadable.new('input/output error', where: "byte #{bad}") if bad
      end

      # @return [Integer, nil] the first byte of a write that is not taken
      def bad_place(offset, length)
        return offset if @wears_out_after && @taken >= @wears_out_after

        bad, = @unwritable.find { |from, size| overlap?(from, size, offset, length) }
        bad && [bad, offset].max
      end

      def hiccup(offset)
        return unless @hiccups && ((@operations += 1) % @hiccups).zero?

        raise Evrel::Unreadable.new('input/output error', where: "byte #{offset}")
      end

      def overlap?(from, size, offset, length) = from < offset + length && from + size > offset

      # @return [Array<(Integer, Integer)>] where a range really lies
      def pieces(offset, length)
        return [[offset, length]] unless @true_capacity && length.positive?

        found = []
        while length.positive?
          at = offset % @true_capacity
          size = [length, @true_capacity - at].min
          found << [at, size]
          offset += size
          length -= size
        end
        found
      end

      def flipped(bytes, offset)
        hit = @flips.select { |from, size| overlap?(from, size, offset, bytes.bytesize) }
        return bytes if hit.empty?

        changed = bytes.dup
        hit.each do |from, size|
          first = [from - offset, 0].max
          last = [from + size - offset, bytes.bytesize].min
          (first...last).each { |at| changed.setbyte(at, changed.getbyte(at) ^ 1) }
        end
        changed
      end

      def move(length)
        return unless @left

        @left -= length
        return if @left >= 0

        @on_end&.call
        @on_end = nil
        raise Evrel::Away.new('the drive does not answer any more', where: 'drive', hint: 'plug it in again')
      end
    end
  end
end
