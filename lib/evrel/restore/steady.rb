# frozen_string_literal: true

module Evrel
  module Restore
    # A target that is asked again where it did not answer, a bounded number of
    # times; what it still refuses then comes as trouble. What was given to it and
    # could not be written out is trouble at once.
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
      def shared_io = @disk.shared_io

      def read_bytes(offset, length) = again(:unreadable, offset) { super }
      def read_bytes_into(buffer, offset, length) = again(:unreadable, offset) { @disk.read_into(buffer, offset, length) }
      def write_bytes(offset, data) = again(:unwritable, offset) { super }
      def discard_bytes(offset, length) = again(:unwritable, offset) { super }
      def zero_bytes(offset, length) = again(:unwritable, offset) { super }

      # Never twice: the system forgets what it could not write out, and is content the second time (fsync(2)).
      def flush = once(:unwritable, nil) { super }

      private

      def again(kind, offset, &block)
        once(kind, offset) { @retry.call(->(_) { @retries += 1 }, &block) }
      end

      def once(kind, offset)
        yield
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
