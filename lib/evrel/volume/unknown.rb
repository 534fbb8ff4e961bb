# frozen_string_literal: true

module Evrel
  module Volume
    # Bytes that no kind recognises: all that is not a hole counts as used.
    class Unknown
      include Unmapped

      def initialize(disk)
        @disk = disk
      end

      def kind = 'unknown'
      def label = nil
      def uuid = nil
      def size = @disk.size
      def block_size = @disk.logical_sector
      def used_bytes = @disk.extents.sum { |_, length| length }
    end
  end
end
