# frozen_string_literal: true

module Evrel
  module Startup
    # What the system mounts while it starts: fstab(5), held against the disk.
    class Mounts
      PATH = '/etc/fstab'
      LARGEST = 64 * KIB
      # An entry that says one of these does not hold up the start.
      WAITS_FOR_NOBODY = %w[nofail x-systemd.automount _netdev].freeze
      # Drives for discs that are put in by hand.
      OPTICAL = %r{\A/dev/(?:sr\d+|scd\d+|cdrom\S*|dvd\S*|fd\d+)\z}
      OPTICAL_KINDS = %w[iso9660 udf].freeze
      DEVICE = %r{\A(?:UUID|PARTUUID|LABEL|PARTLABEL)=|\A/dev/}
      MAPPED = %r{\A/dev/(?:mapper/|disk/by-id/|md)}

      Entry = Struct.new(:spec, :where, :kind, :options, :line) do
        def needed? = kind != 'swap' && !options.intersect?(WAITS_FOR_NOBODY)

        # @return [Boolean] whether it is mounted only when somebody asks for it
        def by_hand? = options.include?('noauto') || spec.match?(OPTICAL) || (kind.to_s.split(',') - OPTICAL_KINDS).empty?
      end

      # @param walk [Walk]
      # @param volume [Volume] the root
      def initialize(walk, volume)
        @walk = walk
        @volume = volume
      end

      def take
        return unless there?

        @entries = entries
        missing = @entries.reject(&:by_hand?).reject { |entry| entry.spec.match?(MAPPED) || @walk.places.find(entry.spec) }
        return fine if missing.empty?

        stopping = missing.select(&:needed?)
        stopping.any? ? stops(stopping) : harmless(missing)
      rescue Damaged => e
        @walk.ask('mounts', "#{PATH} cannot be read", e.message, e.where)
      end

      def there? = @volume.browsable? && @volume.exist?(PATH)

      # @param place [String] "/usr"
      # @return [Table::Partition, nil] what is mounted there
      def part_at(place) = there? && entries.find { |entry| entry.where == place }&.then { |entry| @walk.places.find(entry.spec) }

      # @return [Array<Entry>] that name a device; proc, tmpfs, network shares, other folders and their like need none
      def entries
        text = @volume.file_head(PATH, LARGEST).force_encoding('UTF-8').scrub
        text.each_line.with_index(1).filter_map do |line, number|
          spec, where, kind, options = line.strip.split(/\s+/)
          Entry.new(spec.delete('"'), where, kind, options.to_s.split(','), number) if where && spec.delete('"').match?(DEVICE)
        end
      end

      private

      def fine
        by_hand = @entries.count(&:by_hand?)
        rest = ", #{by_hand} are mounted by hand" if by_hand.positive?
        @walk.ok('mounts', 'The system mounts what it lists',
                 "#{@entries.size - by_hand} entries in #{PATH} are on this disk#{rest}", PATH)
      end

      def stops(missing)
        first = missing.first
        @walk.no(
          'mounts', 'The system waits for what is not there', "#{named(missing)}: without it the start ends in a rescue shell",
          "#{PATH}, line #{first.line}", **remedy(first)
        )
      end

      # Where a part of the disk may be meant, it is named by what it is now.
      def remedy(entry)
        if entry.where == '/' || spare?(entry.kind)
          return { remedy: 'Write the identity that the part has now in its place, or plug that disk in', mend: 'references',
                   about: { spec: entry.spec } }
        end

        root = @walk.places.partitions.find { |part| @walk.places.volume(part).equal?(@volume) }
        { remedy: 'Plug that disk in, or start without it', mend: 'mount-line', about: { number: root&.number, line: entry.line } }
      end

      # @return [Boolean] whether a part of that kind is on the disk that no entry names
      def spare?(kind)
        named = @entries.filter_map { |entry| @walk.places.find(entry.spec)&.number }
        @walk.places.partitions.any? do |part|
          found = @walk.places.volume(part).kind
          !named.include?(part.number) && (found == kind || (kind == 'vfat' && found.start_with?('fat')))
        end
      end

      def harmless(missing)
        @walk.ask('mounts', 'The system lists what is not there', "#{named(missing)}: it starts all the same",
                  "#{PATH}, line #{missing.first.line}")
      end

      def named(entries) = entries.map { |entry| "#{entry.spec} for #{entry.where} (line #{entry.line})" }.join(', ')
    end
  end
end
