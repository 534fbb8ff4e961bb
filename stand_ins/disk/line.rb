# frozen_string_literal: true

module StandIns
  module Disk
    # The line to a drive: it is cut when the drive is pulled, and stays so. Plugged
    # in again, the drive has to be opened anew.
    class Line < Evrel::Disk::Wrapper
      LOOK = 0.05 # seconds between two looks at the port

      # @param disk [Evrel::Disk]
      # @param bench [Bench]
      # @param handle [String] name of the drive
      # @param port [String, nil]
      def initialize(disk, bench, handle, port)
        super(disk)
        @bench = bench
        @handle = handle
        @port = port
        @moves = bench.revision
        @since = bench.last_move
        @looked = 0.0
      end

      # Whether it is cut is looked up anew in each process.
      def fork_safe? = @disk.fork_safe?

      def read_bytes(...) = up { super }
      def read_bytes_into(buffer, offset, length) = up { @disk.read_into(buffer, offset, length) }
      def write_bytes(...) = up { super }
      def discard_bytes(...) = up { super }
      def zero_bytes(...) = up { super }
      def flush = up { super }
      def extents(&) = up { super }

      private

      def up
        check
        yield
      end

      def check
        now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        return if now - @looked < LOOK && !@cut

        @looked = now
        @cut ||= @bench.revision != @moves && pulled?
        raise Evrel::Away.new('the drive does not answer any more', where: "port #{@port}", hint: 'plug it in again') if @cut
      end

      # Also where it is back already.
      def pulled?
        @moves = @bench.revision
        moves = @bench.moves(since: @since)
        @since = moves.last.number if moves.any?
        moves.any? { |move| move.name == @handle && move.what == :pulled }
      end
    end
  end
end
