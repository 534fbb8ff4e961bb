# frozen_string_literal: true

module Evrel
  module Restore
    # Where the bytes of a piece come from, and what of them is changed on the
    # way because of where they go.
    class Feed
      attr_reader :piece

      # @param piece [Layout::Piece]
      # @param source [Image::Native, Image::Foreign, WorkingFile] answers cluster(index) and digests
      # @param patches [Array<Layout::Patch>]
      def initialize(piece, source, patches = [])
        @piece = piece
        @source = source
        @patches = patches
      end

      # @param from [Integer] number of the first cluster that is wanted
      # @return [Enumerator] batches of [number of the cluster, digest], ascending
      def each_batch(from: piece.clusters.begin, batch: 32)
        @source.digests.each_batch(from:, below: piece.clusters.end + 1, batch:)
      end

      # @return [Integer] how many clusters come, or those before a number
      def count(below: piece.clusters.end + 1) = @source.digests.count_between(piece.clusters.begin, below)

      # @return [String] the cluster as it is in the source
      def cluster(index) = @source.cluster(index)

      # @return [Array<(Integer, String)>] byte offset on the target, and what belongs there
      def clip(index, data)
        offset, bytes = piece.clip(index, data)
        [offset, patched(offset, bytes)]
      end

      # @return [Boolean] whether the target gets the whole cluster as it is
      def plain?(index)
        return false unless piece.covers?(index)

        offset = offset_of(index)
        @patches.none? { |patch| patch.overlap?(offset, Image::CLUSTER) }
      end

      # @return [Integer] byte on the target at which the cluster's first byte of the piece lies
      def offset_of(index) = piece.target_start + [(index * Image::CLUSTER) - piece.image_start, 0].max

      private

      def patched(offset, bytes)
        hit = @patches.select { |patch| patch.overlap?(offset, bytes.bytesize) }
        hit.reduce(bytes) { |changed, patch| patch.apply(offset, changed) }
      end
    end
  end
end
