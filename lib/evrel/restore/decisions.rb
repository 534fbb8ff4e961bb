# frozen_string_literal: true

module Evrel
  module Restore
    # What was decided about clusters of the image that are not what they were:
    # they come from another image that has the same, or zeros stand in their
    # place, or their whole part is left out, knowingly.
    class Decisions
      # @param zeros [Array<Integer>] clusters in whose place zeros may stand
      # @param zeros_in [Array<Integer>] numbers of parts in which they may stand everywhere
      # @param others [Array<Image::Native>] images that may be asked
      # @param without [Array<Integer>] numbers of parts that are left out
      def initialize(zeros: [], zeros_in: [], others: [], without: [])
        @zeros = zeros.to_set
        @zeros_in = zeros_in.to_set
        @others = others
        @without = without
      end

      attr_reader :without

      # @return [Boolean] whether all that may be asked can be asked from another process
      def fork_safe? = @others.all?(&:fork_safe?)

      # @param index [Integer] of a cluster
      # @param part [Integer, nil] number of the partition that it is wanted for
      def zeros?(index, part = nil) = @zeros.include?(index) || @zeros_in.include?(part)

      # @param index [Integer]
      # @param digest [String, nil]
      # @param part [Integer, nil] number of the partition that it is wanted for
      # @return [(String, String), nil] the cluster, and where it comes from
      def cluster(index, digest, part = nil)
        other = @others.find { |image| same?(image, index, digest) }
        return [other.cluster(index), other.manifest.id] if other

        [Image::Capture::ZEROS, 'zeros'] if zeros?(index, part)
      end

      private

      # At the same place: another image of the same disk has most of it there.
      def same?(image, index, digest)
        return false if digest.nil?

        image.digests.of(index) == digest && Image::Digests.of(image.cluster(index)) == digest
      rescue Error
        false
      end
    end
  end
end
