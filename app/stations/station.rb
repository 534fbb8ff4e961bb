# frozen_string_literal: true

module Stations
  # One of the six steps of a docket. A station answers `view` (what its page
  # shows), `facts` (its ledger) and `seal` (checks everything again, then makes
  # the decision). The page only mirrors what is said here.
  class Station
    attr_reader :docket

    # @param name [String] one of Docket::STATIONS
    # @return [Station]
    # @raise [Evrel::NotFound]
    def self.for(name, docket)
      raise Evrel::NotFound.new("there is no station #{name}", where: name) unless Docket::STATIONS.include?(name)

      "Stations::#{name.capitalize}Station".constantize.new(docket)
    end

    def initialize(docket)
      @docket = docket
    end

    def name = self.class.name.demodulize.delete_suffix('Station').downcase

    # @return [Array<Evrel::Fact, Hash>] its ledger; plain data where it comes from a seal
    def facts = []

    # @return [String, nil] why an existing seal no longer holds
    def broken_evidence = nil

    private

    # @raise [Evrel::Refused] where an earlier station is open, or a write runs
    def check_order
      waits_for = docket.waits_for(name)
      raise Evrel::Refused.new("#{waits_for.capitalize} is not sealed yet", where: name) if waits_for
      raise Evrel::Refused.new('a write is running', where: name) if docket.writing?
    end

    # @return [Seal]
    def stamp(technician, summary, decision, evidence)
      Docket.transaction do
        docket.break_seals(name, because: 'sealed anew', by: technician) if docket.sealed?(name)
        seal = docket.seals.create!(station: name, technician:, summary:, decision:, evidence:)
        Event.add('sealed', "#{name.capitalize} sealed: #{summary.gsub("\n", ', ')}", docket:, technician:)
        docket.seals.reset
        seal
      end
    end

    def fact(id, state, title, detail) = Evrel::Fact.new(id:, state:, title:, detail:)
  end
end
