# frozen_string_literal: true

module Evrel
  module Restore
    # Counts bytes and measures speed for the progress of a write.
    class Meter
      WINDOW = 3.0 # seconds over which the speed is taken
      # What a target must be waited for, and a source for its processor, to be called the limit.
      IDLE = 0.3
      BUSY = 0.6

      attr_reader :written

      # Salvage::Progress while the write goes back to what its source did not give at once, else nil.
      attr_writer :back

      def initialize(orders)
        @to_write = orders.select { |order| order.kind == :part }.sum(&:bytes)
        @written = @earlier = @spared = @discarded = @source_retries = @target_retries = @late = 0
        @taken = []
      end

      def begin(order)
        @order = order
        @done = @moved = @spared_here = @passed = 0
        @cpu = @fetching = @waited = 0.0
        @began = now
        @samples = [[@began, 0]]
      end

      # @param bytes [Integer] of the running order that an earlier run had done
      def earlier(bytes)
        @earlier += bytes if counts?
        add(bytes, 0)
      end

      # @param bytes [Integer] that the running order has done since the last call
      # @param passed [Integer] bytes of them that really went to the target or came from it
      def add(bytes, passed = bytes)
        @done += bytes
        @passed += passed
        @written += bytes if counts?
        @samples << [now, @passed]
        @samples.shift while @samples.size > 2 && @samples.last.first - @samples.first.first > WINDOW
      end

      # @param fetched [Fetch::Fetched]
      # @param waited [Float] seconds that its bytes were waited for
      # @param target [Integer] how often the target was asked again so far
      def fetched(fetched, waited, target: @target_retries)
        add(fetched.clusters * Image::CLUSTER, fetched.moved + fetched.spared)
        @moved += fetched.moved
        @spared += fetched.spared
        @spared_here += fetched.spared
        @source_retries += fetched.retries
        @target_retries = target
        @taken.concat(fetched.taken)
        @cpu += fetched.cpu
        @fetching += fetched.seconds
        @waited += waited
      end

      # What was counted when it was passed over.
      # @param fetched [Fetch::Fetched]
      def late(fetched)
        @moved += fetched.moved
        @source_retries += fetched.retries
        @taken.concat(fetched.taken)
        @late += fetched.clusters
      end

      # @param bytes [Integer] of unused room that was emptied
      def emptied(bytes) = @discarded += bytes

      def end = @done = @order.bytes.to_i

      # @return [Hash] what the order that ends now really moved
      def of_order = { moved: @moved, spared: @spared_here }

      # @return [Hash] of the whole write
      def totals
        { written: @written, spared: @spared, discarded: @discarded, taken: @taken, late: @late,
          retries: { source: @source_retries, target: @target_retries } }
      end

      # @return [Progress]
      def progress
        total = @order.bytes.to_i
        done = total.positive? ? [@done, total].min : @done
        Progress.new(order: @order.id, kind: @order.kind, part: @order.part, done:, total:, written: @written, earlier: @earlier,
                     to_write: @to_write, speed:, spared: @spared, source_retries: @source_retries, target_retries: @target_retries,
                     limit:, back: @back&.to_h)
      end

      private

      # How much growing has changed is not known before: it is no share of what was to be written.
      def counts? = @order.kind == :part && @order.bytes.positive?

      def speed
        (from, first), (to, last) = @samples.first, @samples.last
        to > from ? ((last - first) / (to - from)).round : 0
      end

      # Which side the others wait for: the target, where nobody waits for the source; else
      # the processor that decompresses and checks, or the shelf.
      def limit
        return 'target' if @order.kind == :read_back
        return unless @order.kind == :part && @fetching.positive?
        return 'target' if @waited < (now - @began) * IDLE

        @cpu > @fetching * BUSY ? 'processor' : 'shelf'
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    end
  end
end
