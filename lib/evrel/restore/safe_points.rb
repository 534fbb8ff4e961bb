# frozen_string_literal: true

module Evrel
  module Restore
    # Points from which a killed write goes on: every so many bytes the target is
    # flushed, and then the journal says how far it came. Both beside the
    # writing, which does not wait for the disk.
    class SafePoints
      EVERY = 128 * MIB

      # @param target [Disk]
      # @param journal [Journal]
      # @param order [String] its id
      def initialize(target, journal, order)
        @target = target
        @journal = journal
        @order = order
        @since = 0
      end

      # @param cluster [Integer] up to which everything was given to the target
      # @param bytes [Integer] given since the last call
      # @raise what the target raised at the last point
      def passed(cluster, bytes)
        @since += bytes
        return if @since < EVERY

        @since = 0
        wait
        @running = Thread.new { note(cluster) }
        @running.report_on_exception = false
      end

      # Makes a point of this very place.
      def now(cluster)
        wait
        note(cluster)
      end

      # @raise what the target raised
      def wait
        running = @running
        @running = nil
        running&.value
      end

      # Lets a point that is being made come to its end, whatever it says: something else went wrong already.
      def abandon
        wait
      rescue Error
        nil
      end

      private

      def note(cluster)
        @target.flush
        @journal.point(@order, cluster:)
      end
    end
  end
end
