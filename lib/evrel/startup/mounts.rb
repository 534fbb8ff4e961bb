# frozen_string_literal: true

module Evrel
  module Startup
    # What the system mounts while it starts: fstab(5), held against the disk.
    class Mounts
      PATH = '/etc/fstab'
      LARGEST = 64 * KIB
      # An entry that says one of these does not hold up the start.
      WAITS_FOR_NOBODY = %w[nofail noauto].freeze
      DEVICE = %r{\A(?:UUID|PARTUUID|LABEL|PARTLABEL)=|\A/dev/}
      MAPPED = %r{\A/dev/(?:mapper/|disk/by-id/|md)}

      Entry = Struct.new(:spec, :where, :kind, :options, :line) do
        def needed? = kind != 'swap' && !options.intersect?(WAITS_FOR_NOBODY)
      end

      # @param walk [Walk]
      # @param volume [Volume] the root
      def initialize(walk, volume)
        @walk = walk
        @volume = volume
      end

      def take
        return unless @volume.browsable? && @volume.exist?(PATH)

        @entries = entries
        missing = @entries.reject { |entry| entry.spec.match?(MAPPED) || @walk.places.find(entry.spec) }
        return fine if missing.empty?

        stopping = missing.select(&:needed?)
        stopping.any? ? stops(stopping) : harmless(missing)
      rescue Damaged => e
        @walk.ask('mounts', "#{PATH} cannot be read", e.message, e.where)
      end

      # @return [Array<Entry>] that name a device; proc, tmpfs and their like need none
      def entries
        text = @volume.file_head(PATH, LARGEST).force_encoding('UTF-8').scrub
        text.each_line.with_index(1).filter_map do |line, number|
          spec, where, kind, options = line.strip.split(/\s+/)
          Entry.new(spec.delete('"'), where, kind, options.to_s.split(','), number) if where && spec.delete('"').match?(DEVICE)
        end
      end

      private

      def fine
        @walk.ok('mounts', 'The system mounts what it lists', "#{@entries.size} of #{@entries.size} entries in #{PATH} are on this disk",
                 PATH)
      end

      def stops(missing)
        first = missing.first
        @walk.no(
          'mounts', 'The system waits for what is not there', "#{named(missing)}: without it the start ends in a rescue shell",
          "#{PATH}, line #{first.line}",
          remedy: 'Write the identity that the part has now in its place, or plug that disk in', mend: 'references',
          about: { spec: first.spec }
        )
      end

      def harmless(missing)
        @walk.ask('mounts', 'The system lists what is not there', "#{named(missing)}: it starts all the same",
                  "#{PATH}, line #{missing.first.line}")
      end

      def named(entries) = entries.map { |entry| "#{entry.spec} for #{entry.where}" }.join(', ')
    end
  end
end
