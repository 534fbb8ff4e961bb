# frozen_string_literal: true

module Evrel
  module Restore
    # Counts bytes and measures speed for the progress of a write.
    class Meter
      WINDOW = 3.0 # seconds over which the speed is taken

      attr_reader :written

      def initialize(orders)
        @to_write = orders.select { |order| order.kind == :part }.sum(&:bytes)
        @written = 0
      end

      def begin(order)
        @order = order
        @done = 0
        @samples = [[now, 0]]
      end

      # @param bytes [Integer] that the running order has moved since the last call
      def add(bytes)
        @done += bytes
        @written += bytes if @order.kind == :part
        @samples << [now, @done]
        @samples.shift while @samples.size > 2 && @samples.last.first - @samples.first.first > WINDOW
      end

      def end = @done = @order.bytes.to_i

      # @return [Progress]
      def progress
        Progress.new(order: @order.id, part: @order.part, done: @done, total: @order.bytes.to_i, written: @written,
                     to_write: @to_write, speed:)
      end

      private

      def speed
        (from, first), (to, last) = @samples.first, @samples.last
        to > from ? ((last - first) / (to - from)).round : 0
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    end
  end
end
