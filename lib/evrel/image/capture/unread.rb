# frozen_string_literal: true

module Evrel
  module Image
    # What of a failing disk could not be read: reads around it, sector by
    # sector, and keeps the list. Zeros stand in its place.
    class Unread
      # More sectors than this, and the drive is dying under the reading. Bounds the manifest, too.
      MOST = 100_000

      # @param disk [Disk]
      # @param tolerant [Boolean] without it, the first error ends the reading
      def initialize(disk, tolerant:)
        @disk = disk
        @tolerant = tolerant
        @ranges = []
        @lock = Mutex.new
      end

      # Safe to call from several threads.
      # @param offset [Integer] bytes
      # @param length [Integer] bytes
      # @param buffer [String, nil] to be used again for what is read
      # @return [String] +length+ bytes: the buffer, or another one where something could not be read
      # @raise [Unreadable]
      # @raise [Away] whatever is tolerated
      def read(offset, length, buffer = nil)
        buffer ? @disk.read_into(buffer, offset, length) : @disk.read(offset, length)
      rescue Unreadable => e
        # What is not there any more has no bad places.
        raise if !@tolerant || e.is_a?(Away)

        around(offset, length)
      end

      # @return [Array<(Integer, Integer)>] byte offset and length of each place, ascending, neighbours joined
      def ranges = Unread.joined(@ranges)

      # @param ranges [Array<(Integer, Integer)>] apart from each other
      # @return [Array<(Integer, Integer)>] ascending, neighbours as one
      def self.joined(ranges)
        ranges.sort.each_with_object([]) do |(offset, length), joined|
          next joined << [offset, length] unless joined.any? && joined.last.sum == offset

          joined.last[1] += length
        end
      end

      private

      def around(offset, length)
        known = @disk.missing(offset, length)
        return but(known, offset, length) if known

        sector = @disk.logical_sector
        data = +''.b
        while data.bytesize < length
          at = offset + data.bytesize
          # What is asked for need not begin or end with a sector.
          take = [sector - (at % sector), length - data.bytesize].min
          data << sector_or_zeros(at, take)
        end
        data
      end

      # @param known [Array<(Integer, Integer)>] what cannot be read, within the range
      def but(known, offset, length)
        data = "\0".b * length
        at = offset
        [*known, [offset + length, 0]].each do |from, bytes|
          data[at - offset, from - at] = @disk.read(at, from - at) if from > at
          at = from + bytes
        end
        @lock.synchronize { @ranges.concat(known) }
        data
      end

      def sector_or_zeros(offset, length)
        @disk.read(offset, length)
      rescue Unreadable => e
        raise if e.is_a?(Away)

        @lock.synchronize { @ranges << [offset, length] }
        raise give_up(e) if @ranges.size > MOST

        "\0".b * length
      end

      def give_up(error)
        Unreadable.new('too much of the disk cannot be read',
                       where: error.where, hint: 'it is failing fast: let it rest, or have its contents rescued elsewhere')
      end
    end
  end
end
