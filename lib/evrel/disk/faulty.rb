# frozen_string_literal: true

module Evrel
  module Disk
    # A disk that behaves as failing and false ones do.
    class Faulty < SimpleDelegator
      # @param disk [Disk]
      # @param unreadable [Array<(Integer, Integer)>] byte offset and length of places that cannot be
      #   read; a read that touches one fails as a whole, like the system's
      # @param flips [Array<(Integer, Integer)>] places of which the lowest bit of every byte comes back wrong
      # @param true_capacity [Integer, nil] bytes behind which it begins anew at its start
      # @param gives_out_after [Integer, nil] bytes that it still moves before it falls silent
      # @yield once, when it falls silent
      def initialize(disk, unreadable: [], flips: [], true_capacity: nil, gives_out_after: nil, &on_end)
        super(disk)
        @unreadable = unreadable
        @flips = flips
        @true_capacity = true_capacity
        @left = gives_out_after
        @on_end = on_end
      end

      def read(offset, length)
        move(length)
        bad, = @unreadable.find { |from, size| overlap?(from, size, offset, length) }
        raise Unreadable.new('input/output error', where: "byte #{[bad, offset].max}") if bad

        bytes = pieces(offset, length).map { |at, size| __getobj__.read(at, size) }.join
        flipped(bytes, offset)
      end

      def write(offset, data)
        move(data.bytesize)
        done = 0
        pieces(offset, data.bytesize).each do |at, size|
          __getobj__.write(at, data.byteslice(done, size))
          done += size
        end
      end

      def discard(offset, length)
        move(0)
        pieces(offset, length).each { |at, size| __getobj__.discard(at, size) }
      end

      def flush
        move(0)
        __getobj__.flush
      end

      private

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
        raise Unreadable.new('the drive does not answer any more', where: 'drive')
      end
    end
  end
end
