# frozen_string_literal: true

module Evrel
  module Restore
    # Writes what lies behind each other at once: a call for each cluster costs
    # as much as the cluster, where many targets are written at the same time.
    class Joined
      MOST = 512 * KIB

      # @param target [Disk]
      # @param helpers [Helpers, nil] that write what they see in shared memory, where nothing stands before the target
      def initialize(target, helpers = nil)
        @target = target
        @helpers = helpers if target.shared_io
        @handed = []
        # One for each thread: making it costs more than filling it.
        @buffer = Thread.current[:evrel_joined] ||= "\0".b * MOST
        @size = 0
        @pieces = []
      end

      # @param offset [Integer] byte on the target
      # @param bytes [String] at most MOST, the caller's again afterwards
      # @raise [Unreadable] with the place that takes nothing
      def add(offset, bytes)
        out if @size.positive? && (offset != @offset + @size || @size + bytes.bytesize > MOST)
        @offset = offset if @size.zero?
        @buffer[@size, bytes.bytesize] = bytes
        @pieces << [@size, bytes.bytesize]
        @size += bytes.bytesize
      end

      # What lies behind each other already, in clusters.
      # @param offset [Integer] byte on the target
      # @param piece [Slots::Piece] as it is; stays until the next flush
      # @raise [Unreadable] with the place that takes nothing
      def stretch(offset, piece)
        return by_clusters(offset, piece) unless @helpers && piece.place && offset + piece.bytesize <= @target.size

        @handed << [offset, piece]
      end

      def flush
        out
        return if @handed.empty?

        # What was not taken says by itself why.
        runs = @handed.map { |offset, piece| [offset, piece.place, piece.bytesize] }
        @handed.each { |one| by_clusters(*one) } unless @helpers.write(@target.shared_io, runs)
        out
      ensure
        @handed.clear
      end

      private

      def by_clusters(offset, piece)
        bytes = piece.to_s
        0.step(bytes.bytesize - 1, Image::CLUSTER) { |at| add(offset + at, bytes.byteslice(at, Image::CLUSTER)) }
      end

      def out
        write(@offset, @size == MOST ? @buffer : @buffer.byteslice(0, @size)) if @size.positive?
      ensure
        @size = 0
        @pieces.clear
      end

      def write(offset, bytes)
        @target.write(offset, bytes)
      rescue Unreadable => e
        raise if e.is_a?(Away)

        # By itself each tells which of them it is.
        @pieces.each { |at, length| @target.write(offset + at, bytes.byteslice(at, length)) }
      end
    end
  end
end
