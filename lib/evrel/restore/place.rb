# frozen_string_literal: true

module Evrel
  module Restore
    # What of an image belongs to a byte of the target.
    class Place
      # @param plan [Layout::Plan]
      # @param image [Image::Native, Image::Foreign]
      def initialize(plan, image)
        @plan = plan
        @image = image
      end

      # @param offset [Integer] byte of the target
      # @return [Layout::Piece, nil]
      def piece_at(offset)
        @plan.pieces.find { |piece| piece.target?(offset) }
      end

      # @return [Integer, nil] byte of the image that goes there; nil where that cannot be told
      def in_image(offset)
        piece = piece_at(offset)
        piece.image_start + offset - piece.target_start if piece && !piece.prepared?
      end
    end
  end
end
