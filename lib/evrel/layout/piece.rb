# frozen_string_literal: true

module Evrel
  module Layout
    # A run of bytes that goes from the image to the target. number is the
    # partition's, nil where there is no table; all sizes are bytes.
    Piece = Struct.new(:number, :name, :role, :image_start, :target_start, :size, keyword_init: true) do
      # @return [Range] the image's clusters that it touches
      def clusters = (image_start / Image::CLUSTER)..((image_start + size - 1) / Image::CLUSTER)

      # The bytes of one cluster that belong to the piece, and their place.
      # @param index [Integer] number of the cluster in the image
      # @param data [String] the cluster
      # @return [Array<(Integer, String)>] byte offset on the target, bytes
      def clip(index, data)
        from = index * Image::CLUSTER
        first = [image_start - from, 0].max
        last = [image_start + size - from, data.bytesize].min
        bytes = first.zero? && last == data.bytesize ? data : data.byteslice(first, last - first)
        [target_start + from + first - image_start, bytes]
      end

      # @return [Boolean] whether the whole cluster belongs to the piece
      def covers?(index)
        from = index * Image::CLUSTER
        from >= image_start && from + Image::CLUSTER <= image_start + size
      end
    end
  end
end
