# frozen_string_literal: true

module Evrel
  module Layout
    # Bytes that are others on the target than in the image, because of where
    # they lie or of new identities. offset is a byte of the target.
    Patch = Struct.new(:offset, :bytes, :why, keyword_init: true) do
      def end = offset + bytes.bytesize

      # @return [Boolean] whether it touches a run of the target
      def overlap?(from, length) = offset < from + length && self.end > from

      # @param from [Integer] byte of the target at which +run+ begins
      # @param run [String]
      # @return [String] the run with its part of the patch
      def apply(from, run)
        first = [offset - from, 0].max
        last = [self.end - from, run.bytesize].min
        run.dup.tap { |changed| changed[first, last - first] = bytes.byteslice(from + first - offset, last - first) }
      end
    end
  end
end
