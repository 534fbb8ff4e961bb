# frozen_string_literal: true

module Evrel
  module Restore
    # Reads a written disk from the device itself and compares it with the
    # image's digests, and its table with the plan's.
    class ReadBack
      BATCH = 32
      # Beyond this many places the disk is simply wrong.
      MOST_LISTED = 100

      attr_reader :compared, :mismatches

      def initialize(image, target, plan)
        @image = image
        @target = target
        @plan = plan
        @compared = 0
        @mismatches = []
      end

      # @yieldparam bytes [Integer] compared since the last call
      # @raise [Unreadable]
      def run
        @target.flush
        @target.drop_cache
        @plan.pieces.each do |piece|
          each_compared_batch(piece) do |wrong, clusters|
            @compared += clusters
            note(wrong, piece)
            yield clusters * Image::CLUSTER
          end
        end
        compare_table if @plan.table
      end

      private

      def each_compared_batch(piece, &)
        jobs = @image.digests.each_batch(from: piece.clusters.begin, below: piece.clusters.end + 1, batch: BATCH)
        Pipeline.each(jobs, ->(batch) { compare(batch, piece) }, &)
      end

      # On a thread. @return [Array<(Array<Integer>, Integer)>] wrong clusters, number compared
      def compare(batch, piece)
        wrong = batch.slice_when { |one, two| two.first != one.first + 1 }.flat_map { |run| wrong_in(run, piece) }
        [wrong, batch.size]
      end

      def wrong_in(run, piece)
        whole, cut = run.partition { |index, digest| digest && piece.covers?(index) }
        wrong = cut.reject { |index, _| cut_equal?(index, piece) }.map(&:first)
        return wrong if whole.empty?

        bytes = @target.read(piece.clip(whole.first.first, Image::Capture::ZEROS).first, whole.size * Image::CLUSTER)
        wrong + whole.each_with_index.filter_map do |(index, digest), at|
          index unless Image::Digests.of(bytes.byteslice(at * Image::CLUSTER, Image::CLUSTER)) == digest
        end
      end

      # A cluster that only partly belongs to the piece has no digest of that
      # part, and in a format without digests none has: it is compared with the image byte by byte.
      def cut_equal?(index, piece)
        offset, bytes = piece.clip(index, @image.cluster(index))
        @target.read(offset, bytes.bytesize) == bytes
      end

      def note(wrong, piece)
        wrong.each do |index|
          next if @mismatches.size >= MOST_LISTED

          @mismatches << { cluster: index, offset: piece.clip(index, Image::Capture::ZEROS).first, part: piece.number }
        end
      end

      def compare_table
        @plan.table.pieces(@target.size).each do |offset, bytes|
          next if @target.read(offset, bytes.bytesize) == bytes

          @mismatches << { cluster: nil, offset:, part: nil }
        end
      end
    end
  end
end
