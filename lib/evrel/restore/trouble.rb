# frozen_string_literal: true

module Evrel
  module Restore
    # Why a write stopped, so that somebody can decide. side is :source, :target
    # or :scratch; kind is :damaged (not what it was), :unreadable, :unwritable,
    # :away (it does not answer at all) or :differs (not what was written);
    # cluster is a number in the image, offset a byte of the target, part the
    # number of a partition; each nil where it says nothing.
    class Trouble < Error
      attr_reader :side, :kind, :cluster, :offset, :part

      def initialize(message, side:, kind:, cluster: nil, offset: nil, part: nil, **about)
        super(message, **about)
        @side = side
        @kind = kind
        @cluster = cluster
        @offset = offset
        @part = part
      end

      # @return [Hash]
      def to_h = super.merge({ side:, kind:, cluster:, offset:, part: }.compact)
    end
  end
end
