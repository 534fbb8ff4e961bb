# frozen_string_literal: true

module Evrel
  # Could a computer be restored today, and on what proof? Judged by its images
  # alone, as they are known: nothing is read here.
  #
  # *Ready* is a computer with an image that is as new as was wished, was read
  # through and found whole, and was seen to start. *Not possible* is one without
  # an image that could be written. All others are *not proved*. That no drive at
  # hand takes the image, or that its shelf is not attached, is said besides: a
  # drive lies in a drawer, a proof does not.
  module Readiness
    STATES = %i[not_possible not_proved ready].freeze

    # An image of the computer.
    # id; taken_at: Time; state: whole, damaged, incomplete, or whatever else is not known to be either; checked_at: Time
    # or nil; due: whether its check is too old to count; start: :reached, :not, :open (it
    # was tried, and nobody knows) or nil; started_at: Time of that; said: what was said of a start that was not reached;
    # needs: bytes of a target, nil where it is not known; unread: sectors that could not be read when it was taken; shelf:
    # its name; attached: whether the shelf is at hand.
    Copy = Struct.new(:id, :taken_at, :state, :checked_at, :due, :start, :started_at, :said, :needs, :unread, :shelf, :attached,
                      keyword_init: true) do
      def usable? = !%w[damaged incomplete].include?(state)
      def checked? = state == 'whole' && !due
      def complete? = unread.to_i.zero?
      def proved? = checked? && complete? && start == :reached
    end

    # state: one of STATES; copy: the one that is spoken of, nil without any; facts: [Fact], the least good first; todo:
    # what would make it better: :prove, :image (a newer one is needed) or nil.
    Verdict = Struct.new(:state, :copy, :facts, :todo, keyword_init: true) do
      # @return [String] why it is so
      def because = facts.map(&:title).join(', ')

      # @return [Integer] the worst is the least
      def rank = (STATES.index(state) * 2) + (facts.any? { |fact| fact.state == :no } ? 0 : 1)
    end

    # @param copies [Array<Copy>]
    # @param wish [Integer] days that the newest image may be old
    # @param drives [Array<Integer>] bytes of the drives at hand that could be a target
    # @param now [Time]
    # @return [Verdict]
    def self.judge(copies, wish:, drives:, now:) = Judge.new(copies, wish:, drives:, now:).verdict
  end
end
