# frozen_string_literal: true

module Evrel
  module Image
    # Checks an image: each cluster against its digest where there is one, its
    # files against checksums that lie beside them, and its structures. Of a
    # foreign image the digests are taken on the way, for next time. Damage is
    # told by cluster, offset, part and files.
    class Check
      BATCH = 128
      # Damage beyond this many places is counted, not listed.
      MOST_LISTED = 100

      # clusters and damaged are counts; places are hashes with cluster, offset
      # (bytes on the disk), part (number or nil) and reason; files are messages
      # about the image's own files, notes are what is worth knowing and no
      # damage; hit are hashes with part, path and size of the files inside that
      # lie on a damaged place, unread_hit the same for what could not be read when
      # the image was taken; position is the cluster to go on with, nil at the end.
      Result = Struct.new(:clusters, :damaged, :places, :files, :notes, :hit, :unread_hit, :position, keyword_init: true) do
        def whole? = position.nil? && damaged.zero? && files.empty?
      end

      # @param image [Native, Foreign]
      # @param from [Result, nil] of a check that was paused
      # @param digests [String, nil] where the digests of a foreign image go
      # @param closing [#call, nil] ends what is still done to the image's files, before these are looked at: a core is
      #   left to that
      def initialize(image, from: nil, digests: nil, closing: nil)
        @image = image
        @closing = closing
        @begun = from
        @taker = DigestTaker.new(digests, image) if digests && image.is_a?(Foreign)
      end

      # @yieldparam done [Integer] clusters
      # @yieldparam total [Integer]; a block that returns :stop pauses the check
      # @return [Result]
      # @raise [Unreadable] where the image is gone in the middle of it
      def run(&)
        @clusters = @begun&.clusters.to_i
        @damaged = @begun&.damaged.to_i
        @places = @begun&.places.to_a
        position = clusters(&)
        return result(position) if position

        @closing&.call
        @taker&.finish
        result(nil)
      ensure
        @taker&.close
      end

      private

      # @return [Integer, nil] where it was paused
      def clusters
        list = @image.digests
        total = list.count
        jobs = list.each_span(from: @begun&.position.to_i, batch: BATCH)
        Pipeline.each(jobs, method(:check), apart: forked?(total), strength: Crew.strength - (@closing ? 1 : 0)) do |(size, last, found), _|
          @clusters += size
          found.each { |index, digest, reason| note(index, digest, reason) }
          return last + 1 if block_given? && yield(@clusters, total) == :stop && @clusters < total
        end
        nil
      end

      def note(index, digest, reason)
        return @taker&.add(index, digest) unless reason

        @damaged += 1
        @places << place(index, reason) if @places.size < MOST_LISTED
      end

      # Taking up processes takes a moment.
      def forked?(clusters) = @image.fork_safe? && clusters > Crew::WORTH

      # @return [(Integer, Integer, Array)] clusters, number of the last, and what is worth noting of them
      def check(span, _out)
        batch = @image.digests.slice(*span)
        digests = batch.to_h
        found = []
        @image.each_cluster(digests.keys) { |index, data| found << judge(index, digests[index], data) }
        found.select!(&:last) unless @taker
        [batch.size, batch.last.first, found]
      end

      def judge(index, digest, data)
        found = Digests.of(data || @image.cluster(index))
        [index, found, ('does not match its digest' unless digest.nil? || found == digest)]
      rescue Damaged, Mismatch => e
        [index, nil, e.message]
      end

      def place(index, reason)
        offset = index * CLUSTER
        part = @image.manifest.parts.find { |entry| Document.touches?(entry, offset, CLUSTER) }
        { cluster: index, offset:, part: part && part['number'], reason: }
      end

      def result(position)
        files = position ? [] : [*Sums.new(@image).problems, *Structure.problems(@image)]
        Result.new(clusters: @clusters, damaged: @damaged, places: @places, files:, notes: Structure.notes(@image),
                   hit: position ? [] : hit(damaged_ranges), unread_hit: position ? [] : hit(@image.manifest.unread), position:)
      end

      def hit(ranges) = ranges.empty? ? [] : Damage.new(@image).files(ranges)

      # A paused check comes back with text for keys.
      def damaged_ranges = @places.map { |place| [(place[:cluster] || place['cluster']) * CLUSTER, CLUSTER] }.sort
    end
  end
end
