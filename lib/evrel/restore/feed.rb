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
      # @param decisions [Decisions] what to do about clusters that are not what they were
      # @param except [Set<Integer>] clusters that come from elsewhere
      def initialize(piece, source, patches = [], decisions = Decisions.new, except: Set.new)
        @piece = piece
        @source = source
        @patches = patches
        @decisions = decisions
        @except = except
      end

      # @return [Boolean] whether a cluster comes from elsewhere
      def except?(index) = @except.include?(index)

      # @param from [Integer] number of the first cluster that is wanted
      # @return [Enumerator] batches of [number of the cluster, digest], ascending
      def each_batch(from: piece.clusters.begin, batch: 32)
        @source.digests.each_batch(from:, below: piece.clusters.end + 1, batch:)
      end

      # @param from [Integer] number of the first cluster that is wanted
      # @return [Enumerator] the same batches by their place: see Image::Digests#each_span
      def each_span(from: piece.clusters.begin, batch: 32)
        @source.digests.each_span(from:, below: piece.clusters.end + 1, batch:)
      end

      # @return [Array<(Integer, String)>] numbers and digests of the clusters of a span
      def slice(at, count) = @source.digests.slice(at, count)

      # @return [String, nil] of one cluster
      def digest(index) = @source.digests.of(index)

      # @return [Integer] how many clusters come, or those before a number
      def count(below: piece.clusters.end + 1) = @source.digests.count_between(piece.clusters.begin, below)

      # @return [Integer] bytes of one cluster that belong to the piece
      def length(index)
        [((index + 1) * Image::CLUSTER) - piece.image_start, piece.size].min - [(index * Image::CLUSTER) - piece.image_start, 0].max
      end

      # @return [Boolean] whether other processes can read it, and it is worth it: they take a moment to begin
      def fork_safe? = @source.fork_safe? && @decisions.fork_safe? && count > Crew::WORTH

      # @param batch [Array<(Integer, String)>] numbers and digests of clusters, ascending
      # @yieldparam index [Integer]
      # @yieldparam digest [String, nil]
      # @yieldparam data [String, nil] the cluster until the block returns; nil where it is not right: ask again
      def each_cluster(batch)
        digests = batch.to_h
        # What several share is held against its digest once.
        return @source.each_sound(digests) { |index, data| yield index, digests[index], data } if shared?

        @source.each_cluster(digests.keys) do |index, data|
          digest = digests[index]
          yield index, digest, (data if data && (digest.nil? || Image::Digests.of(data) == digest))
        end
      end

      # @return [Boolean] whether others read the same
      def shared? = @source.is_a?(SharedSource::Reader)

      # @return [Helpers, nil] processes that read and write for all who read the same
      def helpers = (@source.helpers if shared?)

      # Of what others read too, several clusters at once.
      # @param batch [Array<(Integer, String)>] numbers and digests of clusters, ascending
      # @yieldparam indexes [Range] of clusters that lie behind each other, on the target too
      # @yieldparam data [Slots::Piece, nil] all of them; nil where it is not right: ask again
      # @yieldparam plain [Boolean] whether the target gets them as they are
      def each_stretch(batch)
        @source.each_stretch(batch.to_h) do |first, count, data|
          yield first..(first + count - 1), data, data && plain?(first, count)
        end
      end

      # @return [Boolean] whether the source has not given it, and will be asked for it later
      def later?(index) = @source.respond_to?(:later?) && @source.later?(index)

      # @param digest [String, nil] without one there is nothing to check against
      # @return [String] the cluster as it is in the source
      # @raise [Mismatch, Damaged, Unreadable]
      def cluster(index, digest)
        data = @source.cluster(index)
        return data if digest.nil? || Image::Digests.of(data) == digest

        raise Mismatch.new("cluster #{index} of the image (#{piece.name}) does not match its digest",
                           where: "cluster #{index}, byte #{index * Image::CLUSTER} of the image",
                           hint: 'nothing of it was written; check the image, or choose another')
      end

      # Where zeros may stand, they do so only for what the source cannot give.
      # @return [(String, String), nil] the cluster by what was decided about it, and where that comes from
      def instead(index, digest)
        data, how = @decisions.cluster(index, digest, piece.number)
        data = @source.rest_of(index) || data if how == 'zeros' && @source.respond_to?(:rest_of)
        [data, how] if data
      end

      # @return [String] the cluster, from wherever it comes
      def sound(index, digest)
        cluster(index, digest)
      rescue Mismatch, Damaged, Unreadable => e
        instead(index, digest)&.first or raise e
      end

      # Reads a cluster of the source once more. Where that cannot be done any more, what was read first is all there is.
      # @raise [Trouble] where it gives other bytes than the first time
      def again(index, digest)
        return unless differs?(index, digest)

        raise Trouble.new("cluster #{index} (#{piece.name}) gives other bytes the second time",
                          side: :source, kind: :damaged, cluster: index, part: piece.number,
                          where: "cluster #{index}, byte #{index * Image::CLUSTER} of the source")
      end

      # @return [Boolean] whether the source gives other bytes now
      def differs?(index, digest)
        !digest.nil? && Image::Digests.of(@source.cluster(index)) != digest
      rescue Damaged, Unreadable
        false
      end

      # @return [Boolean] whether the source does not have it
      def lost?(index, digest)
        cluster(index, digest)
        false
      rescue Mismatch, Damaged, Unreadable
        true
      end

      # @return [Boolean] whether zeros may stand in its place
      def zeros?(index) = @decisions.zeros?(index, piece.number)

      # @return [Array<(Integer, String)>] byte offset on the target, and what belongs there
      def clip(index, data)
        offset, bytes = piece.clip(index, data)
        [offset, patched(offset, bytes)]
      end

      # @param count [Integer] of clusters that lie behind each other
      # @return [Boolean] whether the target gets the whole of them as they are
      def plain?(index, count = 1)
        return false unless piece.covers?(index) && piece.covers?(index + count - 1)

        offset = offset_of(index)
        @patches.none? { |patch| patch.overlap?(offset, count * Image::CLUSTER) }
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
