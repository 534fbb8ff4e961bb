# frozen_string_literal: true

module Evrel
  module Salvage
    # What was salvaged, as a disk: what was not read cannot be read, where it
    # was wanted; what nobody wanted is zeros.
    class Salvaged
      include Disk

      # @param store [Store]
      # @param used [Array<(Integer, Integer)>] the ranges that were wanted, ascending
      # @param like [Disk] the disk itself
      def initialize(store, used, like)
        @store = store
        @used = used
        @physical = like.physical_sector
      end

      def size = @store.map.size
      def logical_sector = @store.map.sector
      def physical_sector = @physical

      def read_bytes(offset, length)
        bad, = missing(offset, length).first
        raise Unreadable.new('it could not be read', where: "byte #{bad}") if bad

        @store.disk.read(offset, length)
      end

      def missing(offset, length)
        @store.map.within(offset, length).reject { |from, bytes, state| state == :read || !wanted?(from, bytes) }
              .map { |from, bytes,| [from, bytes] }
      end

      # What could not be read may hold something.
      def extents(&)
        return enum_for(:extents) unless block_given?

        Volume::Runs.union([*@store.disk.extents, *@store.map.in_state(@used, :left, :skipped, :bad)], &)
      end

      private

      def wanted?(offset, length)
        at = @used.bsearch_index { |from, bytes| from + bytes > offset }
        !at.nil? && @used[at].first < offset + length
      end
    end
  end
end
