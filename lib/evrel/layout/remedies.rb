# frozen_string_literal: true

module Evrel
  module Layout
    # What would make an image fit that does not: each with the wish that does it.
    class Remedies
      # A computer starts without these. What else is data may be the system, or the only copy of what people made.
      SPARE = %i[recovery swap].freeze
      MOST_TRIED = 12

      # @param source [Source]
      # @param target [Target]
      # @param wish [Wish] that does not fit
      def initialize(source, target, wish)
        @source = source
        @target = target
        @wish = wish
      end

      # @return [String] "leave out Recovery, or shrink System to 57.4 GB"
      def words
        found = all.map(&:first)
        return found.join(', or ') if found.any?

        "no part can shrink or be left out for it: choose a drive of #{Units.bytes(least_drive)} or more"
      end

      # @return [Integer] bytes of the smallest drive that holds the parts when each is as small as it may be
      def least_drive
        arrange = Arrange.new(@source, @target, Wish.new(kept.merge('way' => 'shrink')), @wish.table || @source.kind)
        arrange.least_extent + @target.size - arrange.limit
      end

      # @return [Array<(String, Hash)>] what to do, and the wish
      def all = @all ||= [*without, shrunk].compact

      private

      # The smallest spare part that makes enough room.
      def without
        spare = @source.parts.select { |part| SPARE.include?(part.role) && !@wish.leave_out.include?(part.number) }.sort_by(&:size)
        # Among very many parts a few of the smallest are tried: it is a proposal, not a search.
        part = spare.first(MOST_TRIED).find { |one| @source.parts.size > 1 && fits(base('leave_out' => [*@wish.leave_out, one.number])) }
        part ? [["leave out #{part.word}", base('leave_out' => [*@wish.leave_out, part.number])]] : []
      end

      def shrunk
        return if @wish.way == 'shrink'

        wish = kept.merge('way' => 'shrink')
        placed = fits(wish) or return
        changed = placed.select(&:resized?)
        return ['let the parts move', wish] if changed.empty?

        ["shrink #{Units.list(changed.map { |one| "#{one.part.word} to #{Units.bytes(one.size)}" })}", wish]
      end

      # Another way would keep what was set besides.
      def kept = @wish.to_h.slice('leave_out', 'free', 'table', 'identity', 'rewrite', 'align', 'air', 'salt')
      def base(change) = (@wish.way == 'by_hand' ? kept.merge('way' => 'shrink') : @wish.to_h).merge(change)

      # @return [Array<Arrange::Placed>, nil]
      def fits(hash)
        arrange = Arrange.new(@source, @target, Wish.new(hash), hash['table'] || @source.kind)
        placed = arrange.call
        placed if placed.any? && placed.map(&:end).max <= arrange.limit
      end
    end
  end
end
