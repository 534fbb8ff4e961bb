# frozen_string_literal: true

module Evrel
  module Layout
    # A part that is to be placed: sizes are bytes, number its place in the
    # image's table. limits are those of its volume (Volume::Limits), volume is
    # its plain description (kind, label, used_bytes, block_size, sector_size).
    Part = Struct.new(:number, :name, :role, :type, :guid, :attributes, :start, :size, :volume, :limits, :logical, keyword_init: true) do
      # @return [Integer] the first byte behind it
      def end = start + size

      def used = volume['used_bytes'].to_i
      def kind = volume['kind']
      def resizable? = limits.resizable?

      # What keeps its size and its place among the others unless somebody says otherwise.
      def small_fixed? = %i[startup reserved recovery swap].include?(role)

      # @return [Boolean] whether a plan may grow it without being told to
      def growable? = resizable? && !small_fixed?

      # @return [Boolean] whether what is in it is grown by its own system, once its partition is
      def grown_inside? = !resizable? && !Inside.words(kind).nil?

      # @return [Boolean] whether its partition may grow
      def grows? = resizable? ? limits.most.nil? || limits.most > size : Inside.larger?(kind)

      # @return [Integer, nil] bytes that it may have at most; nil without a limit
      def most
        return size unless grows?

        limits.most if resizable?
      end

      # @return [Integer] bytes that its volume needs
      def least = limits.least

      # @return [String] the word on a core
      def word = name.to_s.empty? ? (volume['label'] || Table::Types.role_name(role)) : name
    end
  end
end
