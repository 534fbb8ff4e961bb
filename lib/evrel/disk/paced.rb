# frozen_string_literal: true

module Evrel
  module Disk
    # A disk behind a slow port: the same bytes, at no more than a given rate.
    class Paced < SimpleDelegator
      # @param disk [Disk]
      # @param bytes_per_second [Integer] for reads and writes alike
      def initialize(disk, bytes_per_second)
        super(disk)
        @rate = bytes_per_second.to_f
        @ready_at = 0.0
      end

      def read(offset, length)
        pace(length)
        __getobj__.read(offset, length)
      end

      def write(offset, data)
        pace(data.bytesize)
        __getobj__.write(offset, data)
      end

      private

      def pace(length)
        now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        @ready_at = [@ready_at, now].max + (length / @rate)
        # Sleeping for less than a few milliseconds costs more than it paces.
        sleep(@ready_at - now) if @ready_at - now > 0.005
      end
    end
  end
end
