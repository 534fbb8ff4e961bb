# frozen_string_literal: true

module Evrel
  module Layout
    # A run of bytes that goes from the image, or from a working file in the
    # scratch room, to the target. number is the partition's in the image, nil
    # where there is no table; how as in Place, or :grown of what growing changes;
    # room is what its partition gets on the target; all sizes are bytes.
    Piece = Struct.new(:number, :name, :role, :image_start, :target_start, :size, :how, :room, keyword_init: true) do
      # @return [Boolean] whether its bytes are made in the scratch room; they then begin at byte 0 there
      def prepared? = %i[scratch remake swap grown].include?(how)

      # @return [Boolean] whether it is only what growing changes of a volume
      def grown? = how == :grown

      # @return [Boolean] whether some of it is replaced by what growing changes
      def grows? = how == :grow

      # @return [Range] the source's clusters that it touches
      def clusters = (image_start / Image::CLUSTER)..((image_start + size - 1) / Image::CLUSTER)

      # @param offset [Integer] byte of the target
      # @return [Boolean] whether it belongs to the piece
      def target?(offset) = offset.between?(target_start, target_start + size - 1)

      # The bytes of one cluster that belong to the piece, and their place.
      # @param index [Integer] number of the cluster in the source
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
