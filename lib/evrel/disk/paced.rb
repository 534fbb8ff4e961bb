# frozen_string_literal: true

module Evrel
  module Disk
    # A disk behind a slow port: the same bytes, at no more than a given rate.
    class Paced < SimpleDelegator
      # @param disk [Disk]
      # @param bytes_per_second [Integer] for writes, and for reads where nothing else is said
      # @param reading [Integer] bytes per second for reads
      def initialize(disk, bytes_per_second, reading: bytes_per_second)
        super(disk)
        @writing = bytes_per_second.to_f
        @reading = reading.to_f
        @ready_at = 0.0
      end

      # It counts what goes through it.
      def apart? = false
      def read_into(buffer, offset, length) = buffer.replace(read(offset, length))

      def read(offset, length)
        pace(length, @reading)
        __getobj__.read(offset, length)
      end

      def write(offset, data)
        pace(data.bytesize, @writing)
        __getobj__.write(offset, data)
      end

      private

      def pace(length, rate)
        now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        @ready_at = [@ready_at, now].max + (length / rate)
        # Sleeping for less than a few milliseconds costs more than it paces.
        sleep(@ready_at - now) if @ready_at - now > 0.005
      end
    end
  end
end
