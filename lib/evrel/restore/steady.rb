# frozen_string_literal: true

module Evrel
  module Restore
    # A target that is asked again where it did not answer, a bounded number of
    # times; what it still refuses then comes as trouble.
    class Steady < Disk::Wrapper
      attr_reader :retries

      # @param target [Disk]
      # @param retrying [Retry]
      def initialize(target, retrying)
        super(target)
        @retry = retrying
        @retries = 0
      end

      # What other processes read or write is asked again there; only this one's count is told.
      def fork_safe? = @disk.fork_safe?

      def read_bytes(offset, length) = again(:unreadable, offset) { super }
      def read_bytes_into(buffer, offset, length) = again(:unreadable, offset) { @disk.read_into(buffer, offset, length) }
      def write_bytes(offset, data) = again(:unwritable, offset) { super }
      def discard_bytes(offset, length) = again(:unwritable, offset) { super }
      def zero_bytes(offset, length) = again(:unwritable, offset) { super }
      def flush = again(:unwritable, nil) { super }

      private

      def again(kind, offset, &)
        @retry.call(->(_) { @retries += 1 }, &)
      rescue Away => e
        raise trouble(e, :away, nil)
      rescue Unreadable => e
        raise trouble(e, kind, offset)
      end

      def trouble(error, kind, offset)
        # The drive may know better which place of a run it was.
        offset = error.where[/\Abyte (\d+)/, 1]&.to_i || offset if error.where && kind != :away
        Trouble.new(error.message, where: error.where, hint: error.hint, side: :target, kind:, offset:)
      end
    end
  end
end
