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
        volume = piece.prepared? ? source.disk : Disk::Window.new(@image.disk, piece.image_start, piece.size)
        Feed.new(piece, source, Layout::Patches.new(@plan, piece, volume).all, piece.prepared? ? Decisions.new : @decisions)
      end
    end
  end
end
