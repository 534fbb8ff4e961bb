# frozen_string_literal: true

module Evrel
  module Restore
    # Takes clusters from a source and holds them against their digests.
    module Fetch
      # @param feed [Feed]
      # @param batch [Array<(Integer, String)>] numbers and digests
      # @return [Array<(Integer, String)>] numbers and clusters
      # @raise [Mismatch] nothing of a wrong cluster leaves this
      def self.checked(feed, batch)
        batch.map do |index, digest|
          data = feed.cluster(index)
          # Without a digest there is nothing to check against; the read-back compares with the source itself.
          next [index, data] if digest.nil? || Image::Digests.of(data) == digest

          raise Mismatch.new("cluster #{index} of the image (#{feed.piece.name}) does not match its digest",
                             where: "cluster #{index}, byte #{index * Image::CLUSTER} of the image",
                             hint: 'nothing of it was written; check the image, or choose another')
        end
      end
    end
  end
end
