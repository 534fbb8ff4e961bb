# frozen_string_literal: true

module Evrel
  # May this drive be overwritten: the one place that decides.
  module Safety
    # A drive as a target. All fields come from the drive or the records:
    #   identity       Identity
    #   physical_sector, logical_sector  bytes
    #   health         Hash: "state" ("good", "worn", "failing"), "reason"
    #   read_only, in_use  Boolean
    #   shelves        Array<String>, names of the shelves that lie on it
    #   docket         String, number of the docket that has locked it, or nil
    #   volumes        Array<Hash>, as in a manifest ("volume" of each partition), with "part"
    #   owner          String, name of the computer it was in, or nil
    #   twins          Array<String>, ports with a drive of the same model and capacity
    Candidate = Struct.new(:identity, :logical_sector, :physical_sector, :health, :read_only, :in_use, :shelves,
                           :docket, :volumes, :owner, :disk_guid, :twins, keyword_init: true)

    # What the drive is wanted for: the docket's number, its computer's name,
    # and of the sealed image the bytes it needs, its sector size, the shelf
    # that holds it and the identity of its disk.
    Purpose = Struct.new(:docket, :computer, :needs, :logical_sector, :shelf, :disk_guid, keyword_init: true)

    # state is :clear, :ask or :refused; facts are in the order of the rules.
    Verdict = Struct.new(:state, :facts, keyword_init: true) do
      def refused? = state == :refused

      # @return [Fact, nil] the one that decided
      def reason = facts.find { |fact| fact.state == :no } || facts.find { |fact| fact.state == :ask }
    end

    # @param candidate [Candidate]
    # @param purpose [Purpose]
    # @return [Verdict]
    def self.judge(candidate, purpose)
      facts = Rules::ALL.filter_map { |rule| rule.call(candidate, purpose) }
      state = { no: :refused, ask: :ask, ok: :clear }.fetch(Fact.worst(facts))
      Verdict.new(state:, facts:)
    end
  end
end
