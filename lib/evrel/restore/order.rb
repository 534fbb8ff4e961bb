# frozen_string_literal: true

module Evrel
  module Restore
    # One operation of a write. kind is :check, :prepare (a volume is made ready
    # in the scratch room), :clear, :part, :read_back or :table; piece is the
    # place of its piece in the plan, part the number of its partition; bytes is
    # what it will move, nil where that says nothing.
    Order = Struct.new(:id, :kind, :title, :detail, :bytes, :part, :piece, keyword_init: true) do
      # @return [Boolean] whether it moves bytes at the speed of a write
      def writes? = kind == :part

      # @return [Boolean] whether it makes a volume ready, at a speed of its own
      def prepares? = kind == :prepare
    end
  end
end
