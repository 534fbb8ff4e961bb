# frozen_string_literal: true

module Evrel
  module Restore
    # Reads a written disk from the device itself and compares it with the
    # digests of what was to be written, and its table with the plan's.
    class ReadBack
      BATCH = 32
      # Beyond this many places the disk is simply wrong.
      MOST_LISTED = 100

      attr_reader :compared, :mismatches

      # @param target [Disk]
      def initialize(target)
        @target = target
        @compared = 0
        @mismatches = []
      end

      # @param feed [Feed] what was written
      # @yieldparam bytes [Integer] compared since the last call
      # @raise [Unreadable]
      def run(feed)
        Pipeline.each(feed.each_batch(batch: BATCH), ->(batch) { wrong_in(batch, feed) }) do |wrong, clusters|
          @compared += clusters
          note(wrong, feed)
          yield clusters * Image::CLUSTER
        end
      end

      # @param table [Table::Gpt, Table::Mbr]
      def table(table)
        @target.drop_cache
        table.pieces(@target.size).each do |offset, bytes|
          next if @target.read(offset, bytes.bytesize) == bytes

          @mismatches << { cluster: nil, offset:, part: nil }
        end
      end

      private

      # On a thread. @return [Array<(Array<Integer>, Integer)>] wrong clusters, number compared
      def wrong_in(batch, feed)
        whole, cut = batch.partition { |index, digest| digest && feed.plain?(index) }
        runs = whole.slice_when { |one, two| two.first != one.first + 1 }
        [runs.flat_map { |run| wrong_in_run(run, feed) } + cut.reject { |index, _| equal?(index, feed) }.map(&:first), batch.size]
      end

      # What goes over whole and unchanged is held against its digest: one read for neighbours.
      def wrong_in_run(run, feed)
        bytes = @target.read(feed.offset_of(run.first.first), run.size * Image::CLUSTER)
        run.each_with_index.filter_map do |(index, digest), at|
          index unless Image::Digests.of(bytes.byteslice(at * Image::CLUSTER, Image::CLUSTER)) == digest
        end
      end

      # A cluster that belongs only partly to the piece, or is changed on the way, has no digest of that;
      # in a format without digests none has: it is compared with what was to be written byte by byte.
      def equal?(index, feed)
        offset, bytes = feed.clip(index, feed.cluster(index))
        @target.read(offset, bytes.bytesize) == bytes
      end

      def note(wrong, feed)
        wrong.each do |index|
          @mismatches << { cluster: index, offset: feed.offset_of(index), part: feed.piece.number } if @mismatches.size < MOST_LISTED
        end
      end
    end
  end
end
