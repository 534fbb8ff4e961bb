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

    # A page says which seal it has seen: whoever comes second is told what the first did.
    # @param params [Hash] "seen": id of a seal, or null
    # @raise [Evrel::Refused]
    def meanwhile!(params)
      now = docket.seal(name)
      return if !params.key?('seen') || params['seen'] == now&.id

      raise Evrel::Refused.new(now ? changed(now) : "#{name.capitalize} was opened again meanwhile", where: name, hint: 'look at it again')
    end

    private

    def changed(seal)
      "#{seal.technician.short_name} sealed #{name.capitalize} at #{seal.created_at.getlocal.strftime('%H:%M:%S')}: " \
        "#{seal.summary.gsub("\n", ', ')}"
    end

    def check_earlier = StationOrder.earlier!(docket, name)
    def check_order = StationOrder.check!(docket, name)

    # @return [Seal]
    def stamp(technician, summary, decision, evidence)
      Docket.transaction do
        docket.one_at_a_time
        Unseal.from(docket, name, because: 'sealed anew', by: technician) if docket.sealed?(name)
        seal = docket.seals.create!(station: name, technician:, summary:, decision:, evidence:)
        Event.add('sealed', "#{name.capitalize} sealed: #{summary.gsub("\n", ', ')}", docket:, technician:)
        docket.seals.reset
        docket.refresh_words
        seal
      end
    end

    def fact(id, state, title, detail) = Evrel::Fact.new(id:, state:, title:, detail:)
  end
end
