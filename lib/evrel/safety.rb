# frozen_string_literal: true

module Evrel
  # May this drive be overwritten: the one place that decides.
  module Safety
    # A drive as a target. All fields come from the drive or the records:
    #   identity       Identity
    #   logical_sector, physical_sector  bytes
    #   health         Health::Report
    #   read_only, removable, rotating   Boolean; the last nil where it is not known
    #   running        Boolean, whether this machine runs from it
    #   in_use         String, what uses it ("mounted at …"), or nil
    #   speed          bytes per second that its port is known for, or nil
    #   bus            String
    #   shelves        Array<String>, names of the shelves that lie on it
    #   source_of      Array<String>, numbers of the dockets that restore from it as it is
    #   moved          Hash: "to" (words), "ago" (seconds), "kept" (Time until which it is kept, nil where that is over): where
    #                  what is on it was moved to another drive that was seen to start; or nil
    #   docket         String, number of the docket that has locked it, or nil
    #   protection     Hash: "by", "note", "until" (Time or nil), or nil
    #   volumes        Array<Hash>, as in a manifest ("volume" of each partition), with "role"
    #   owner          String, name of the computer it was in, or nil
    #   hosts          Array<String>, host names of the systems on it
    #   newest         Time of the newest that is known of on it, or nil
    #   newest_image   Time of the newest image of this drive, or nil
    #   disk_guid      String or nil
    #   twins          Array<String>, ports with a drive of the same model and capacity
    #   near           Hash{String=>Integer}, port with a drive of nearly the same serial → characters that differ
    #   conflicts      Array<String>, other ports with a drive of the same serial
    #   same_disk      Array<String>, other ports with a disk of the same identity
    Candidate = Struct.new(:identity, :logical_sector, :physical_sector, :health, :read_only, :removable, :rotating, :running, :in_use,
                           :speed, :bus, :shelves, :docket, :protection, :volumes, :owner, :hosts, :newest, :newest_image,
                           :disk_guid, :twins, :near, :conflicts, :same_disk, :source_of, :moved,
                           keyword_init: true) do
      def system? = volumes.any? { |volume| volume['role'] == 'system' }
    end

    # What the drive is wanted for: the docket's number, its computer's name,
    # and of the sealed image: the bytes it needs, those that would be written
    # (amount), its sector size, the shelf that holds it, the identity of its
    # disk, when it was taken, the kind of its table, its parts as in a
    # manifest, and whether the drive it is of rotates (nil where unknown).
    Purpose = Struct.new(:docket, :computer, :needs, :least, :amount, :logical_sector, :shelf, :disk_guid, :taken_at, :table_kind, :parts,
                         :rotating, keyword_init: true)

    # state is :clear, :ask or :refused; facts are in the order of the rules;
    # decisions are the ids of those that somebody has to decide about.
    Verdict = Struct.new(:state, :facts, :decisions, keyword_init: true) do
      def refused? = state == :refused
      def ask? = state == :ask

      # @return [Fact, nil] the one that decided
      def reason = facts.find { |fact| fact.state == :no } || facts.find { |fact| decisions.include?(fact.id) }
    end

    RULES = [*Refusals::ALL, *Questions::ALL].freeze

    # @param candidate [Candidate]
    # @param purpose [Purpose]
    # @return [Verdict]
    def self.judge(candidate, purpose)
      said = RULES.filter_map { |rule| rule.call(candidate, purpose)&.then { |fact| [rule, fact] } }
      facts = said.map(&:last)
      decisions = said.filter_map { |rule, fact| fact.id if rule.decides?(fact) }
      state = :refused if facts.any? { |fact| fact.state == :no }
      Verdict.new(state: state || (decisions.any? ? :ask : :clear), facts:, decisions:)
    end
  end
end
