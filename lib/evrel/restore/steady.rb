# frozen_string_literal: true

require 'delegate'

module Evrel
  module Restore
    # A target that is asked again where it did not answer, a bounded number of
    # times; what it still refuses then comes as trouble.
    class Steady < SimpleDelegator
      attr_reader :retries

      # @param target [Disk]
      # @param retrying [Retry]
      def initialize(target, retrying)
        super(target)
        @retry = retrying
        @retries = 0
      end

      def read(offset, length) = again(:unreadable, offset) { __getobj__.read(offset, length) }
      def read_into(buffer, offset, length) = again(:unreadable, offset) { __getobj__.read_into(buffer, offset, length) }
      def write(offset, data) = again(:unwritable, offset) { __getobj__.write(offset, data) }
      def discard(offset, length) = again(:unwritable, offset) { __getobj__.discard(offset, length) }
      def zero(offset, length) = again(:unwritable, offset) { __getobj__.zero(offset, length) }
      def flush = again(:unwritable, nil) { __getobj__.flush }

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
