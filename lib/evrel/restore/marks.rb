# frozen_string_literal: true

module Evrel
  module Restore
    # What stands in the place of the table while a disk is written: the old one
    # is gone, the new one comes last. It has to stay until then: on a drive that
    # is smaller than it says, something else lands on it, or the table would
    # land on something else after that was read back.
    class Marks
      WORDS = "This disk is being written by Evrel: it has no partition table until that is done. Layout %s\n"

      # @param plan [Layout::Plan]
      # @param target [Disk]
      def initialize(plan, target)
        @plan = plan
        @target = target
      end

      # Of a part restore it is the old table without the part.
      def write
        return @plan.table_first.write(@target) if @plan.part_restore?

        places.each { |offset, bytes| @target.write(offset, bytes) }
      end

      # @return [Array<Integer>] byte offsets at which something else stands by now
      def gone
        places.filter_map { |offset, bytes| offset unless stands?(offset, bytes) }
      end

      # @return [Boolean] whether there is no place for any
      def none? = places.empty?

      # @return [Boolean] whether one of them stands, or all of a table: some of its sectors are the same on many drives
      def ours?
        tables = [@plan.table&.pieces(@target.size), (places if @plan.part_restore?)].compact
        (!@plan.part_restore? && places.any? { |place| stands?(*place) }) ||
          tables.any? { |pieces| pieces.any? && pieces.all? { |piece| stands?(*piece) } }
      end

      private

      # @return [Array<(Integer, String)>] none on a disk that gets no table
      def places
        return [] unless @plan.table
        return @plan.table_first.pieces(@target.size) if @plan.part_restore?

        @plan.table.pieces(@target.size).map { |offset, bytes| [offset, words(bytes.bytesize)] }
      end

      def stands?(offset, bytes) = @target.read(offset, bytes.bytesize) == bytes

      # Of another layout they are another write's.
      def words(length)
        text = format(WORDS, @plan.digest[0, 16])
        (text * ((length / text.bytesize) + 1)).byteslice(0, length)
      end
    end
  end
end
