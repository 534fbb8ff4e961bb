# frozen_string_literal: true

module Evrel
  module Restore
    # What a failing drive does not give when it is first asked. The write goes
    # past it, and comes back when all the rest is written, in the passes of a
    # salvage, whose map it keeps.
    class Leftover
      # From now on the drive is not asked again for what it did not give, until its turn comes.
      # @param image [Image::Live, SharedSource::Reader] the latter of such a drive
      # @param folder [String] of the map, and of what the passes give; it stays for a write that goes on
      def initialize(image, folder)
        @disk = image.disk
        @store = Salvage::Store.open(folder, @disk.size, @disk.logical_sector)
        @image = image
        image.salvage_into(@store.map, @store.disk)
      end

      # Durable when this returns: what is known to be written has no gaps that nobody knows of.
      # @param indexes [Array<Integer>] of clusters that were not given
      def add(indexes)
        return if indexes.empty?

        indexes.each { |index| @store.map.in_state([range(index)], :left).each { |place| @store.map.set(*place, :skipped) } }
        @store.note
      end

      # @param piece [Layout::Piece]
      # @return [Array<Integer>] clusters of it that were left, ascending, whatever has become of them since
      def clusters(piece)
        @store.map.each.reject { |_, _, state| state == :left }
              .flat_map { |offset, length,| ((offset / Image::CLUSTER)..((offset + length - 1) / Image::CLUSTER)).to_a }.uniq
              .select { |index| piece.clusters.cover?(index) }
      end

      # The passes, over what was left of clusters, and once more over what they did not give of those about which nothing was
      # decided yet. Afterwards the drive's image gives what they gave.
      # @param indexes [Array<Integer>] ascending
      # @yieldparam index [Integer] of a cluster
      # @yieldreturn [Boolean] whether somebody has decided about it
      # @param told [#call] gets Salvage::Progress; where it gives :stop they end, to go on another time
      # @return [Boolean] whether they came to their end
      # @raise [Away]
      def read(indexes, told)
        only = indexes.map { |index| range(index) }.reject do |place|
          @store.map.in_state([place], :skipped).empty? && yield(place.first / Image::CLUSTER)
        end
        result = Salvage::Run.new(@disk, @store, only:).run { |progress| told.call(progress) == :stop ? :enough : nil }
        @image.settle
        result.complete
      end

      def close = @store.close

      private

      # @return [(Integer, Integer)] byte offset and length
      def range(index)
        offset = index * Image::CLUSTER
        [offset, [Image::CLUSTER, @disk.size - offset].min]
      end
    end
  end
end
