# frozen_string_literal: true

module Evrel
  module Restore
    # Writes the clusters of one piece: they are fetched and checked side by
    # side, and written in their order.
    class PartWriter
      # Clusters per job: 2 MiB where their bytes come back, 8 MiB where they do not.
      BATCH = 32
      LARGE_BATCH = 128

      # @param order [Order]
      # @param feed [Feed]
      # @param target [Disk]
      # @param journal [Journal]
      # @param fetch [Fetch]
      # @param apart [Boolean] whether other processes can fetch
      # @param back [GoingBack, nil] to what the source did not give
      def initialize(order, feed, target:, journal:, fetch:, apart:, back: nil)
        @order = order
        @feed = feed
        @target = target
        @journal = journal
        @fetch = fetch
        @apart = apart
        @back = back
        @points = SafePoints.new(target, journal, order.id)
      end

      # @param from [Integer, nil] the first cluster that is not known to be on the target; nil where none is known to be
      # @yieldparam fetched [Fetch::Fetched]
      # @yieldparam waited [Float] seconds that the target was not busy
      # @yieldreturn :stop ends it at this very point
      # @raise [Stopped, Trouble]
      def run(from = nil, &block)
        from ||= @feed.piece.clusters.begin
        since = now
        batch = @fetch.direct? ? LARGE_BATCH : BATCH
        # Where others write the same at the same time, more would only wait for the interpreter, each with memory of its own.
        threads = @feed.shared? ? 1 : Pipeline::THREADS
        Pipeline.each(@feed.each_span(from:, batch:), @fetch, apart: @apart, room: @fetch.room(batch), threads:) do |fetched, bytes|
          waited = now - since
          write(fetched.runs, bytes)
          @back&.leave(fetched.later)
          @points.passed(fetched.last, fetched.clusters * Image::CLUSTER)
          stop(fetched.last) if block.call(fetched, waited) == :stop
          since = now
        end
        finish
      ensure
        @points.abandon
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      def write(runs, bytes)
        at = 0
        runs.each do |offset, length|
          @target.write(offset, bytes.byteslice(at, length))
          at += length
        end
      end

      def finish
        @points.wait
        @target.flush
        @journal.point(@order.id, done: true)
      end

      def stop(cluster)
        @points.now(cluster)
        raise Stopped.new('stopped; the disk has no partition table now', where: @order.title, hint: 'the write can go on from here')
      end
    end
  end
end
