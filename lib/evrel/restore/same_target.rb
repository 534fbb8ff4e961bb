# frozen_string_literal: true

module Evrel
  module Restore
    # What shows, before a write goes on, that the target is the one on which it
    # was begun: the marks that it left, or else what it wrote. A name and a serial
    # can be another drive's too.
    class SameTarget
      # Nothing on the target shows it.
      class Stranger < Refused; end

      SAMPLE = 16 # clusters of a part

      # @param target [Disk]
      # @param marks [Marks]
      # @param journal [Journal]
      def initialize(target, marks, journal)
        @target = target
        @marks = marks
        @journal = journal
      end

      # @param orders [Array<Order>]
      # @param feeds [Feeds]
      # @raise [Stranger]
      def check(orders, feeds)
        return if !@journal.done?('clear') || @marks.ours?

        written = orders.select { |order| order.kind == :part && @journal.cluster(order.id) }
        found = written.flat_map { |order| sample(feeds[order.piece], @journal.cluster(order.id)) }
        return if found.empty? && @marks.none?
        return if found.any? && found.count(true) * 2 >= found.size # what was decided about damaged clusters differs

        raise Stranger.new('nothing on the drive shows that it is the one that was being written',
                           where: 'target', hint: 'prove it anew: then all is written anew')
      end

      private

      # @return [Array<Boolean>] whether clusters that are known to be written stand there; zeros prove nothing
      def sample(feed, last)
        numbers = (feed.piece.clusters.begin..last).step([(last - feed.piece.clusters.begin) / SAMPLE, 1].max).first(SAMPLE)
        found = numbers.filter_map { |number| feed.each_batch(from: number, batch: 1).first&.first }.uniq
        found.select { |number, _| number <= last && feed.plain?(number) && !feed.except?(number) }.filter_map do |number, digest|
          data = @target.read(feed.offset_of(number), Image::CLUSTER)
          same?(feed, number, digest, data) unless data == Image::Capture::ZEROS && zeros?(feed, number, digest)
        end
      end

      def same?(feed, number, digest, data)
        digest ? Image::Digests.of(data) == digest : feed.cluster(number, nil) == data
      rescue Mismatch, Damaged, Unreadable
        true # the source itself does not say what it was
      end

      def zeros?(feed, number, digest) = same?(feed, number, digest, Image::Capture::ZEROS)
    end
  end
end
