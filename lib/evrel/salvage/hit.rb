# frozen_string_literal: true

module Evrel
  module Salvage
    # Which files lie on what was not read of a disk so far.
    class Hit
      # What Damage asks of an image, with what was salvaged in its place.
      View = Struct.new(:disk, :parts) do
        def manifest = self
        def partition(number) = parts.find { |part| part['number'] == number }
      end

      # @param salvaged [Salvaged]
      def initialize(salvaged)
        @salvaged = salvaged
      end

      # @param ranges [Array<(Integer, Integer)>] byte offset and length of what was not read, ascending
      # @return [Array<Hash>] part, path and size, as Image::Damage tells them
      def files(ranges)
        map = Image::UsedMap.new(@salvaged, prove: false)
        return [] unless map.table

        parts = map.parts.map { |part| Image::Description.entry(part.partition) }
        Image::Damage.new(View.new(@salvaged, parts)).files(ranges)
      rescue BadPlace
        [] # the table itself is among it
      end
    end
  end
end
