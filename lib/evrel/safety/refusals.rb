# frozen_string_literal: true

module Evrel
  module Safety
    # What nothing helps against: a drive of which one of these is true is not
    # written to, by no path.
    module Refusals
      def self.rule(id, source, &) = Rule.new(id, :refuse, source, &)

      SHELF = rule('shelf', 'the list of shelves') do |drive, purpose|
        next if drive.shelves.empty?

        [drive.shelves.include?(purpose.shelf) ? 'Holds the image you are restoring' : 'Holds images',
         "Shelf “#{drive.shelves.join('”, “')}” lies on it"]
      end

      SOURCE = rule('source', 'the dockets') do |drive, purpose|
        next if drive.source_of.to_a.empty?

        own = drive.source_of.include?(purpose.docket)
        [own ? 'It is what you restore from' : "#{drive.source_of.first} restores from it", 'It stays as it is until that docket is done']
      end

      RUNNING = rule('running', 'the system that runs Evrel') do |drive, _|
        ['This machine runs from it', 'Overwriting it would end the restore, and the machine with it'] if drive.running
      end

      IN_USE = rule('in-use', 'the system’s list of mounts') do |drive, _|
        ['In use', "It is #{drive.in_use}: release it first"] if drive.in_use
      end

      LOCKED = rule('locked', 'the dockets') do |drive, purpose|
        next if drive.docket.nil? || drive.docket == purpose.docket

        ["Locked by #{drive.docket}", 'Another docket has sealed it as its target']
      end

      PROTECTED = rule('protected', 'the records of drives') do |drive, _|
        next unless (protection = drive.protection)

        till = " until #{protection['until'].getlocal.strftime('%-d %B %Y')}" if protection['until']
        ["Protected by #{protection['by']}", "#{protection['note']}#{till}"]
      end

      CONFLICT = rule('conflict', 'the serials of the attached drives') do |drive, _|
        next if drive.conflicts.empty?

        ['Two drives say that they are this one', "The same serial is on port #{drive.conflicts.join(', ')}: pull one of them"]
      end

      READ_ONLY = rule('read-only', 'the drive’s switch') do |drive, _|
        ['Read-only', 'Its switch or its port forbids writing'] if drive.read_only
      end

      FAILING = rule('failing', 'the drive’s SMART data') do |drive, _|
        ['It is failing now', drive.health.reason] if drive.health.state == 'failing'
      end

      SIZE = rule('size', 'the drive’s capacity and the image’s table') do |drive, purpose|
        capacity = drive.identity.capacity
        if purpose.needs <= capacity
          next Rule::Fine.new('Big enough',
                              "#{Units.bytes(capacity)}; the image needs #{Units.bytes(purpose.needs)}")
        end

        least = purpose.least || purpose.needs
        missing = least - capacity
        next unless missing.positive? # see Questions::SHRINK

        ["#{Units.bytes(missing)} too small",
         "The image needs #{Units.bytes(least)}#{', even shrunk' if least < purpose.needs}, the drive has #{Units.bytes(capacity)}; " \
         "#{Refusals.to_go(purpose.parts, missing)}"]
      end

      ALL = [SHELF, SOURCE, RUNNING, IN_USE, LOCKED, PROTECTED, CONFLICT, READ_ONLY, FAILING, SIZE].freeze

      # A computer starts without these.
      SPARE = %w[recovery swap data].freeze

      # @param parts [Array<Hash>] of the image
      # @param missing [Integer] bytes
      # @return [String] which parts would have to go
      def self.to_go(parts, missing)
        spare = parts.to_a.select { |part| SPARE.include?(part['role']) }.sort_by { |part| part['size_bytes'] }
        return 'none of its parts can be left out' if spare.empty?

        one = spare.find { |part| part['size_bytes'] >= missing }
        going = one ? [one] : spare
        left = missing - going.sum { |part| part['size_bytes'] }
        names = Units.list(going.map { |part| part['name'].to_s.empty? ? "part #{part['number']}" : part['name'] })
        left.positive? ? "even without #{names} it lacks #{Units.bytes(left)}" : "#{names} would have to go"
      end
    end
  end
end
