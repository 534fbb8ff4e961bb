# frozen_string_literal: true

module Evrel
  module Restore
    # Writes once more what did not read back as it should.
    class Rewrite
      # @param plan [Layout::Plan]
      # @param feeds [Feeds]
      # @param target [Disk]
      # @yieldparam feed [Feed]
      # @yieldreturn [Fetch] from it, which writes by itself
      def initialize(plan, feeds, target, &fetch)
        @plan = plan
        @feeds = feeds
        @target = target
        @fetch = fetch
      end

      # @param mismatches [Array<Hash>] as in ReadBack, each with a cluster
      def run(mismatches)
        mismatches.each do |wrong|
          feed = feed_of(wrong)
          fetched = @fetch.call(feed).batch([[wrong[:cluster], feed.digest(wrong[:cluster])]], nil)
          @target.zero(wrong[:offset], feed.length(wrong[:cluster])) if fetched.moved.zero?
        end
      end

      private

      # Two pieces have the place of a part that grows; the cluster's number tells which of them it was.
      def feed_of(wrong)
        at = @plan.pieces.each_index.find do |index|
          @plan.pieces[index].target?(wrong[:offset]) && @feeds[index].offset_of(wrong[:cluster]) == wrong[:offset]
        end
        @feeds[at]
      end
    end
  end
end
