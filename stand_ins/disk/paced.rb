# frozen_string_literal: true

module StandIns
  module Disk
    # A disk behind a slow port: the same bytes, at no more than a given rate. Zeros take
    # as long as other bytes; what is given back is a mere command.
    class Paced < Evrel::Disk::Wrapper
      # @param disk [Disk]
      # @param bytes_per_second [Integer] for writes, and for reads where nothing else is said
      # @param reading [Integer] bytes per second for reads
      def initialize(disk, bytes_per_second, reading: bytes_per_second)
        super(disk)
        @writing = bytes_per_second.to_f
        @reading = reading.to_f
        @ready_at = 0.0
      end

      def read_bytes(offset, length) = paced(length, @reading) { super }
      def write_bytes(offset, data) = paced(data.bytesize, @writing) { super }
      def zero_bytes(offset, length) = paced(length, @writing) { super }

      private

      def paced(length, rate)
        now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        @ready_at = [@ready_at, now].max + (length / rate)
        # Sleeping for less than a few milliseconds costs more than it paces.
        sleep(@ready_at - now) if @ready_at - now > 0.005
        yield
      end
    end
  end
end
