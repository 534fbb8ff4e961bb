# frozen_string_literal: true

module Evrel
  module Safety
    # One thing to look at before a drive is overwritten. severity says what it
    # means when it fires: :refuse (nothing helps), :ask (somebody decides, and
    # says why) or :note (worth knowing, decides nothing). source says where the
    # evidence comes from.
    class Rule
      STATES = { refuse: :no, ask: :ask, note: :ask }.freeze
      # What a rule answers where all is well, and that is worth saying.
      Fine = Struct.new(:title, :detail)

      attr_reader :id, :severity, :source

      # @param id [String]
      # @param severity [Symbol]
      # @param source [String]
      # @yieldparam drive [Candidate]
      # @yieldparam purpose [Purpose]
      # @yieldreturn [nil, Array<(String, String)>, Fine] title and detail where it fires; nil where there is nothing to say
      def initialize(id, severity, source, &test)
        @id = id
        @severity = severity
        @source = source
        @test = test
      end

      # @return [Fact, nil]
      def call(drive, purpose)
        said = @test.call(drive, purpose) or return
        state = said.is_a?(Fine) ? :ok : STATES.fetch(severity)
        title, detail = said.to_a
        Fact.new(id:, state:, title:, detail:, evidence: source)
      end

      # @return [Boolean] whether somebody has to decide about this fact
      def decides?(fact) = severity == :ask && fact.state == :ask
    end
  end
end
