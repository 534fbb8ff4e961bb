# frozen_string_literal: true

module Evrel
  module Restore
    # Writes what lies behind each other at once: a call for each cluster costs
    # as much as the cluster, where many targets are written at the same time.
    class Joined
      MOST = 512 * KIB

      # @param target [Disk]
      def initialize(target)
        @target = target
        # One for each thread: making it costs more than filling it.
        @buffer = Thread.current[:evrel_joined] ||= "\0".b * MOST
        @size = 0
        @pieces = []
      end

      # @param offset [Integer] byte on the target
      # @param bytes [String] at most MOST, the caller's again afterwards
      # @raise [Unreadable] with the place that takes nothing
      def add(offset, bytes)
        flush if @size.positive? && (offset != @offset + @size || @size + bytes.bytesize > MOST)
        @offset = offset if @size.zero?
        @buffer[@size, bytes.bytesize] = bytes
        @pieces << [@size, bytes.bytesize]
        @size += bytes.bytesize
      end

      # What lies behind each other already, in clusters.
      # @param offset [Integer] byte on the target
      # @param bytes [String] as it is
      # @raise [Unreadable] with the place that takes nothing
      def stretch(offset, bytes)
        flush
        write(offset, bytes) { 0.step(bytes.bytesize - 1, Image::CLUSTER).map { |at| [at, Image::CLUSTER] } }
      end

      def flush
        write(@offset, @size == MOST ? @buffer : @buffer.byteslice(0, @size)) { @pieces } if @size.positive?
      ensure
        @size = 0
        @pieces.clear
      end

      private

      def write(offset, bytes)
        @target.write(offset, bytes)
      rescue Unreadable => e
        raise if e.is_a?(Away)

        # By itself each tells which of them it is.
        yield.each { |at, length| @target.write(offset + at, bytes.byteslice(at, length)) }
      end
    end
  end
end
