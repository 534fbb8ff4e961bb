# frozen_string_literal: true

module Evrel
  module Image
    # Groups clusters of a file by what can be read at once: packed ones that
    # lie behind each other make one span, all others one each.
    class Spans
      LONGEST = 4 * MIB
      SECTOR = 512

      # Clusters as number, kind, byte offset and length; from and needed are what they take of the file.
      # It is read in whole sectors, which is as containers are decrypted.
      Span = Struct.new(:from, :needed, :clusters) do
        # @param place [Array] of a packed cluster
        def self.around(place)
          from = place[2] / SECTOR * SECTOR
          new(from, place[2] + place[3] - from, [place])
        end

        def length = (needed + SECTOR - 1) / SECTOR * SECTOR

        # @param file [Disk]
        # @param buffer [String] to read into
        # @return [String, nil] nil where there is nothing to read at once, or it cannot be read
        def read(file, buffer)
          file.read_into(buffer, from, [length, file.size - from].min) if from && from + needed <= file.size
        rescue Error
          nil
        end

        # @yield number, kind, byte offset (of packed ones in what was read, else in the file), length
        def each = clusters.each { |index, kind, offset, length| yield index, kind, from ? offset - from : offset, length }
      end

      # @param places [Array<Array>] number, kind (:packed or another), byte offset and length in the file
      def initialize(places)
        @places = places
      end

      # @yieldparam span [Span]
      def each
        span = nil
        @places.each do |place|
          _, kind, offset, length = place
          if kind == :packed && span&.from && fits?(span, offset, length)
            span.needed = [span.needed, offset + length - span.from].max
            span.clusters << place
            next
          end
          yield span if span
          span = kind == :packed ? Span.around(place) : Span.new(nil, 0, [place])
        end
        yield span if span
      end

      private

      # The next may begin within the last sector of the one before.
      def fits?(span, offset, length)
        offset.between?(span.from, span.from + span.needed) && offset + length - span.from <= LONGEST
      end
    end
  end
end
