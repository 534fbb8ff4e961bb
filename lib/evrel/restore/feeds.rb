# frozen_string_literal: true

module Evrel
  module Restore
    # The feeds of a plan's pieces, each made when it is first needed: a working
    # file is there only once it was prepared.
    class Feeds
      # @param plan [Layout::Plan]
      # @param image [Image::Native, Image::Foreign]
      # @param scratch [Scratch, nil]
      # @param decisions [Decisions]
      def initialize(plan, image, scratch, decisions = Decisions.new)
        @plan = plan
        @image = image
        @scratch = scratch
        @decisions = decisions
        @feeds = {}
      end

      # @param index [Integer] of the piece
      # @return [Feed]
      # @raise [Unreadable, Damaged]
      def [](index) = @feeds[index] ||= feed(@plan.pieces[index])

      private

      def feed(piece)
        source = piece.prepared? ? @scratch.file(piece.number) : @image
        Feed.new(piece, source, Layout::Patches.new(@plan, piece, volume(piece)).all, piece.prepared? ? Decisions.new : @decisions,
                 except: piece.grows? ? replaced(piece) : Set.new)
      end

      # @return [Disk] all that is written of the part
      def volume(piece)
        return @scratch.file(piece.number).disk if piece.prepared? && !piece.grown?

        start = piece.grown? ? @plan.place_of(piece.number).part.start : piece.image_start
        size = piece.grown? ? @plan.place_of(piece.number).part.size : piece.size
        below = Disk::Window.new(@image.disk, start, size)
        piece.grown? || piece.grows? ? Grown.new(below, @scratch.file(piece.number)) : below
      end

      # @return [Set<Integer>] clusters of the image that growing has changed
      def replaced(piece)
        first = piece.image_start / Image::CLUSTER
        @scratch.file(piece.number).clusters.to_set { |index| first + index }
      end
    end
  end
end
