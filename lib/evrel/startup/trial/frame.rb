# frozen_string_literal: true

module Evrel
  module Startup
    # One picture of a screen, as the emulator gives it (a portable pixmap: "P6",
    # width, height and 255 as text, then three bytes for each pixel).
    class Frame
      HEAD = /\AP6\s+(\d+)\s+(\d+)\s+255\s/n
      PIXEL = 3 # bytes
      STEP = 97 # pixels between two that are looked at for their colour
      BLINKS = 0.05 # share of its rows that a cursor or a clock may change

      attr_reader :width, :height

      # @param path [String]
      # @return [Frame, nil] nil where there is none
      def self.read(path)
        bytes = ::File.binread(path)
        head = bytes.match(HEAD) or return
        new(head[1].to_i, head[2].to_i, head.post_match)
      rescue SystemCallError
        nil
      end

      # @param width [Integer] pixels
      # @param height [Integer] pixels
      # @param bytes [String] rows from the top
      def initialize(width, height, bytes)
        @width = width
        @height = height
        @bytes = bytes
      end

      # @param other [Frame, nil]
      # @return [Boolean] whether no more than a cursor or a clock differs
      def like?(other)
        return false unless other && [other.width, other.height] == [width, height]

        (0...height).count { |row| row(row) != other.row(row) } <= height * BLINKS
      end

      # @return [Integer] how many colours were seen; a text has sixteen at most
      def colours
        @colours ||= (0...(width * height)).step(STEP).map { |pixel| @bytes.byteslice(pixel * PIXEL, PIXEL) }.uniq.size
      end

      # @param number [Integer]
      # @return [String]
      def row(number) = @bytes.byteslice(number * width * PIXEL, width * PIXEL)
    end
  end
end
