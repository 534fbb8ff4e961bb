# frozen_string_literal: true

module Evrel
  module Volume
    # For the kinds that have a map of what is used. The map is believed only
    # where it is proved: a kind that includes this implements
    #
    #   find_doubts     what contradicts its map, as texts; empty where nothing does
    #   mapped_extents  yields byte offset and length of each run in use, ascending
    #   map             what it calls its map, for people
    module Mapped
      include Told

      # @return [Array<String>] why not all of its map is believed; empty where it is proved
      def doubts
        @doubts ||= begin
          find_doubts
        rescue BadPlace => e
          [e.message]
        end
      end

      # @return [Boolean] whether every byte counts as used; where it does not, only pieces may be doubtful
      def kept_whole? = doubts.any?

      # Yields byte offset and length of each run that has to be kept, ascending.
      def used_extents(&block)
        return enum_for(:used_extents) unless block

        kept_whole? ? @disk.extents(&block) : mapped_extents(&block)
      end

      # @return [Boolean]
      def hibernated? = false

      # @return [Integer] bytes in use, as its own map counts them; all of them where that cannot be read
      def used_bytes
        @used_bytes ||= mapped_extents.sum { |_, length| length }
      rescue BadPlace
        @used_bytes = size
      end
    end
  end
end
