# frozen_string_literal: true

module Evrel
  module Match
    # Is the image one of this computer? Several traces, each with its weight.
    class Kinship
      # How sure one must be to call it its own.
      OWN = 40

      # @param document [Image::Document]
      # @param problem [Problem]
      def initialize(document, problem)
        @document = document
        @problem = problem
      end

      # @return [Array<Mark>]
      def marks = @marks ||= [system_identity, host, drive, disk, name].compact

      # @return [Symbol] :own, :unclear, :twin or :other
      def relation
        score = marks.sum(&:weight)
        return :own if score >= OWN
        return :twin if model && model == @problem.model
        return :unclear if score >= 0 && marks.none? { |mark| mark.weight.negative? } && nameless?

        score.positive? ? :unclear : :other
      end

      private

      def model = @document.computer['model']
      def hosts = @document.systems.filter_map { |system| system['host'] }
      def nameless? = hosts.empty? && @document.computer['name'].nil? && @document.computer['system_identity'].nil?

      def system_identity
        theirs = @document.computer['system_identity']
        return if theirs.nil? || @problem.system_identity.nil?
        return mark(60, 'system', :ok, 'Taken from this computer', 'Same system identity') if theirs == @problem.system_identity

        twin = model && model == @problem.model
        mark(-100, 'system', :ask, "Taken from #{@document.computer['name'] || 'another computer'}",
             twin ? 'A twin: same model, another system identity' : 'Another system identity')
      end

      def host
        return if hosts.empty? || @problem.host_names.to_a.empty?

        known = @problem.host_names.map(&:downcase)
        return mark(40, 'host', :ok, "Its system is called #{hosts.first}", 'Host name read inside') if hosts.any? do |one|
          known.include?(one.downcase)
        end

        mark(-40, 'host', :ask, "Its system is called #{hosts.first}",
             "Host name read inside; this computer is #{@problem.host_names.first}")
      end

      def drive
        serial = @document.drive['serial']
        return unless serial && @problem.drive_serials.to_a.include?(serial)

        mark(30, 'drive', :ok, 'Taken from its drive',
             "#{@document.drive['maker']} #{@document.drive['model']} #{Identity.mask(serial)}".strip)
      end

      def disk
        guid = @document.disk_guid
        return unless guid && @problem.disk_guids.to_a.include?(guid)

        mark(40, 'disk', :ok, 'Has the identity of its disk', 'The same as on a drive or in an image of it')
      end

      # A name alone is what people typed: it counts where nothing better is known.
      def name
        theirs = @document.computer['name']
        return unless theirs && @problem.name && @document.computer['system_identity'].nil?

        if theirs.casecmp?(@problem.name)
          mark(40, 'name', :ok, "Named #{theirs}",
               'By whoever took it')
        else
          mark(-20, 'name', :ask, "Named #{theirs}", 'By whoever took it')
        end
      end

      def mark(weight, id, state, title, detail) = Mark.new(Fact.new(id:, state:, title:, detail:), weight)
    end
  end
end
