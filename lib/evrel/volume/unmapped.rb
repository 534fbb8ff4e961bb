# frozen_string_literal: true

module Evrel
  module Volume
    # For what has no map of what is used that is read here: all that is not a
    # hole counts as used.
    module Unmapped
      include Told

      def map = nil
      def doubts = []
      def kept_whole? = true

      # @return [nil] it is not known
      def clean? = nil
      def hibernated? = false
      def browsable? = false
      def used_extents(&) = @disk.extents(&)
    end
  end
end
