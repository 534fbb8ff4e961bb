# frozen_string_literal: true

module Evrel
  # One checked fact of a ledger: state is :ok, :ask or :no; evidence says
  # where it was read, where that is not obvious; id names the rule; part is
  # the number of the partition that it is about, where it is about one.
  Fact = Struct.new(:id, :state, :title, :detail, :evidence, :part, keyword_init: true) do
    # @param facts [Array<Fact>]
    # @return [Symbol] the worst state among them, :ok where there is none
    def self.worst(facts) = %i[no ask].find { |state| facts.any? { |fact| fact.state == state } } || :ok

    def to_h = super.compact
  end
end
