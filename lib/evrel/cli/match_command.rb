# frozen_string_literal: true

require 'json'
require 'time'

module Evrel
  class CLI
    # `bin/evrel match`: looks through folders and ranks what is found.
    class MatchCommand
      # Fields of a computer's file; all others are refused, so that a slip is noticed.
      FIELDS = %w[name system_identity model firmware host_names drive_serials disk_guids].freeze
      CAUSES = %w[drive_failed corrupt infected slow replaced rehearsal set_up].freeze

      # @param computer [String] a host name, or the path of a JSON file with FIELDS
      # @param cause [String] one of CAUSES
      # @param since [String, nil] a time, or two with ".." between (ISO 8601)
      # @raise [ArgumentError]
      def initialize(computer:, cause: 'drive_failed', since: nil)
        raise ArgumentError, "the cause is one of #{CAUSES.join(', ')}" unless CAUSES.include?(cause)

        from, to = since.to_s.split('..', 2).map { |text| text.empty? ? nil : Time.parse(text) }
        @problem = Match::Problem.new(**fields(computer), cause:, since: from, noticed: to || from)
      end

      # @param folders [Array<String>]
      # @return [Array<(Array<Hash>, Array<Hash>)>] the ranking, and what could not be looked at
      # @raise [Unreadable]
      def run(folders)
        offers = []
        problems = []
        folders.each do |folder|
          Shelf::Look.new(Shelf::Folder.new(folder)).run do |found|
            found.problem && found.document.nil? ? problems << { path: found.path, problem: found.problem } : offers << offer(folder, found)
          end
        end
        [Match.rank(offers, @problem).map { |ranking| row(ranking) }, problems]
      end

      private

      def fields(computer)
        return { name: computer, host_names: [computer] } unless ::File.file?(computer)

        given = JSON.parse(::File.read(computer))
        raise ArgumentError, "#{computer} holds no JSON object" unless given.is_a?(Hash)

        unknown = given.keys - FIELDS
        raise ArgumentError, "#{computer} has the unknown field #{unknown.first}" if unknown.any?

        given.transform_keys(&:to_sym)
      rescue JSON::ParserError
        raise ArgumentError, "#{computer} is no JSON"
      end

      def offer(folder, found)
        Match::Offer.new(key: ::File.join(folder, found.path), document: found.document, state: found.problem ? 'incomplete' : 'unchecked',
                         damage: found.problem, reachable: true, where: "In #{folder}")
      end

      def row(ranking)
        marks = ranking.marks.map { |mark| mark.fact.to_h.merge(weight: mark.weight) }
        { path: ranking.offer.key, why: ranking.why, relation: ranking.relation, moment: ranking.moment, ruled_out: ranking.ruled_out?,
          score: ranking.score, taken_at: ranking.offer.document.document['taken_at'], marks: }
      end
    end
  end
end
