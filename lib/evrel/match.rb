# frozen_string_literal: true

module Evrel
  # Which image for which computer and which trouble.
  module Match
    # The computer, and what happened to it. All fields of the computer may be
    # nil or empty: what is not known speaks neither for nor against.
    #   name, system_identity, model, firmware ("uefi" or "bios")
    #   host_names, drive_serials, disk_guids  Array<String>
    #   cause        "drive_failed", "corrupt", "infected", "slow", "replaced", "rehearsal" or "set_up"
    #   since        Time of the last moment at which it was surely well, or nil
    #   noticed      Time at which the trouble was surely there; the same as since for a moment
    #   targets      Array<Integer>, capacities in bytes of the drives that could be written
    Problem = Struct.new(:name, :system_identity, :model, :firmware, :host_names, :drive_serials, :disk_guids, :cause, :since, :noticed,
                         :targets, keyword_init: true)

    # An image as it is known.
    #   key          anything; comes back in the ranking
    #   document     Image::Document
    #   state        "unchecked", "checking", "paused", "whole", "damaged" or "incomplete"
    #   checked_at   Time or nil
    #   due          Boolean, whether the check is too long ago
    #   damage       String, what the check found, or nil
    #   unread       String, what could not be read when it was taken, or nil
    #   reachable    Boolean; where says which shelf or drive to fetch
    #   needs        bytes that a target must have
    #   trial        :reached, :failed or nil
    #   restored     Boolean, whether it was restored before
    Offer = Struct.new(:key, :document, :state, :checked_at, :due, :damage, :unread, :reachable, :where, :needs, :trial, :restored,
                       keyword_init: true)

    # What one rule says: a Fact, and how much it weighs (below zero: against).
    Mark = Struct.new(:fact, :weight)

    # relation is :own, :unclear, :twin or :other; moment is :before, :between,
    # :after or :unknown; why is one line; score the sum of the weights.
    Ranking = Struct.new(:offer, :relation, :moment, :marks, :score, :why, keyword_init: true) do
      def facts = marks.map(&:fact)

      # @return [Boolean] whether something rules it out
      def ruled_out? = facts.any? { |fact| fact.state == :no && fact.id != 'shelf' }
    end

    # @param offers [Array<Offer>]
    # @param problem [Problem]
    # @return [Array<Ranking>] the best first
    def self.rank(offers, problem)
      ranked = offers.map { |offer| Judge.new(offer, problem).ranking }.sort_by { |ranking| Order.key(ranking, problem) }
      Reasons.new(ranked, problem).give
    end
  end
end
