# frozen_string_literal: true

module Evrel
  module Layout
    # What all that look at placed parts have in common.
    module Finding
      # @param source [Source]
      # @param target [Target]
      # @param wish [Wish]
      # @param arrange [Arrange]
      # @param placed [Array<Arrange::Placed>]
      # @param kind [String] of the table that the target gets
      def initialize(source, target, wish, arrange, placed, kind)
        @source = source
        @target = target
        @wish = wish
        @arrange = arrange
        @placed = placed
        @kind = kind
      end

      private

      def fact(id, state, title, detail, part: nil) = Fact.new(id:, state:, title:, detail:, part:)
      def bytes(number) = Units.bytes(number)
      def limit = @arrange.limit
      def logical?(one) = Tables.logical?(@source.kind, @placed.map(&:part), one.part)
    end
  end
end
