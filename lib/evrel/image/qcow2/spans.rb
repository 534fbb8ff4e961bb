# frozen_string_literal: true

module Evrel
  module Image
    # Groups clusters of a file by what can be read at once: packed ones that
    # lie behind each other make one span, all others one each.
    class Spans
      LONGEST = 4 * MIB

      # Clusters as number, kind, byte offset and length; from and length are what is read of the file.
      Span = Struct.new(:from, :length, :clusters) do
        # @param file [Disk]
        # @param buffer [String] to read into
        # @return [String, nil] nil where there is nothing to read at once, or it cannot be read
        def read(file, buffer)
          file.read_into(buffer, from, length) if from && from + length <= file.size
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
            span.length = [span.length, offset + length - span.from].max
            span.clusters << place
            next
          end
          yield span if span
          span = Span.new(*(kind == :packed ? [offset, length] : [nil, nil]), [place])
        end
        yield span if span
      end

      private

      # The next may begin within the last sector of the one before.
      def fits?(span, offset, length)
        offset.between?(span.from, span.from + span.length) && offset + length - span.from <= LONGEST
      end
    end
  end
end
