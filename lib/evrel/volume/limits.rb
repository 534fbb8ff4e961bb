# frozen_string_literal: true

module Evrel
  module Volume
    # Between which sizes a volume can be brought, and by what: least and most
    # are bytes (most is nil without a limit below the disk's), resizer is nil
    # where it keeps its size, with the reason.
    Limits = Struct.new(:least, :most, :resizer, :reason, keyword_init: true) do
      # @param size [Integer] bytes of a volume that keeps its size
      # @param reason [String]
      def self.fixed(size, reason) = new(least: size, most: size, resizer: nil, reason:)

      def resizable? = !resizer.nil?
    end
  end
end
