# frozen_string_literal: true

require 'openssl'
require 'json'

module Evrel
  module Layout
    # Where everything goes: the table that the target gets (nil without one),
    # the parts, and what the layout means. Made by Planner; never changed.
    class Plan
      LEAST_GROWTH = 64 * MIB
      GROWTH_SHARE = 512

      attr_reader :table, :places, :target, :wish, :checks

      # @param table [Table::Gpt, Table::Mbr, nil]
      # @param places [Array<Place>] in the order of the disk
      # @param target [Target]
      # @param wish [Wish]
      # @param checks [Array<Fact>] a :no among them: it cannot be written
      # @param pieces [Array<Piece>] what is written, in order
      # @param limit [Integer] the first byte behind the room for parts
      # @param disk_guid [String, nil] of the image's disk, where the whole of it is written
      # @param table_first [Table::Gpt, Table::Mbr, nil] of a part restore: the table while it is under way
      def initialize(places:, target:, wish:, checks:, table: nil, pieces: [], limit: target.size, table_first: nil, disk_guid: nil)
        @table = table
        @places = places
        @target = target
        @wish = wish
        @checks = checks
        @pieces = pieces
        @limit = limit
        @table_first = table_first
        @disk_guid = disk_guid
      end

      # @return [Table::Gpt, Table::Mbr, nil] of a part restore: the table without the part that is being written
      attr_reader :table_first, :pieces, :limit

      def target_size = target.size
      def valid? = checks.none? { |check| check.state == :no }
      def part_restore? = wish.part_restore?

      # @return [Array<Place>] those that come from the image
      def parts = places.reject(&:kept?)

      # @return [Place, nil] by its number in the image
      def place_of(number) = parts.find { |place| place.part.number == number }

      # @return [Hash] identity in the image → the one on the target, where it is another of the same kind
      def renewed
        @renewed ||= places.reject(&:kept?).to_h { |place| [place.part.guid.to_s.downcase, identity_of(place)] }
                           .merge(@disk_guid.to_s.downcase => table&.guid.to_s.downcase)
                           .reject { |old, new| old.empty? || new.nil? || new.empty? || old == new || old.size != new.size }
      end

      # @return [Boolean] whether a start-up program's store would not find a part any more by what it was in the image
      def renames? = parts.any? { |place| renamed?(place) }

      # @param device [Startup::BootStore::Device] that names a part by what it is in the image
      # @return [String, nil] the device as it names the same part on the target; nil where it can stay as it is
      def named_by(device)
        place = parts.find { |one| device.gpt? ? one.part.guid.to_s.casecmp?(device.guid) : starts_at?(one, device) }
        device.naming(entry_of(place), table) if place && renamed?(place)
      end

      # @return [Integer] bytes behind the last part that nothing uses
      def free_at_end
        last = places.empty? ? pieces.map { |piece| piece.target_start + piece.size }.max.to_i : places.map(&:end).max
        [@limit - last, 0].max
      end

      # @param numbers [Array<Integer>, nil] of parts; all where it is left out
      # @return [Integer] bytes that their working files take in the scratch room at most
      def scratch_bytes(numbers = nil)
        parts.select { |place| numbers.nil? || numbers.include?(place.part.number) }.sum { |place| scratch_of(place) }
      end

      # @return [Fact, nil] the first reason why it cannot be written
      def problem = checks.find { |check| check.state == :no }

      # @return [Plan] itself
      # @raise [DoesNotFit] where it cannot be written
      def valid!
        unless valid?
          raise DoesNotFit.new("#{problem.title}: #{problem.detail}",
                               where: problem.part ? "partition #{problem.part}" : 'layout')
        end

        self
      end

      def to_h
        { target_size:, sector: target.sector, free_at_end:, wish: wish.to_h,
          table: table && { kind: table.kind, guid: table.guid, sector: table.sector,
                            first_usable: table.first_usable, last_usable: table.last_usable },
          parts: places.map { |place| part_to_h(place) },
          checks: checks.map(&:to_h) }
      end

      # @return [String] the same for the same plan: over what is written, not over what is said about it
      def digest = OpenSSL::Digest::SHA256.hexdigest(JSON.generate([to_h.except(:checks), pieces.map(&:to_h)]))

      private

      def starts_at?(place, device) = @disk_guid == device.disk && place.part.start == device.offset

      def entry_of(place) = table&.partitions&.find { |one| one.number == place.number }
      def identity_of(place) = entry_of(place)&.guid.to_s.downcase

      def renamed?(place)
        entry = entry_of(place) or return false
        !entry.guid.to_s.casecmp?(place.part.guid.to_s) || (table.kind == 'mbr' && place.moves?)
      end

      # FAT is copied file by file: the volume is unpacked beside the new one. Of a volume that grows only what changes is
      # kept: bitmaps of each new block group, and what makes room for their descriptors.
      def scratch_of(place)
        return 0 unless place.prepared? || place.grows?
        return 64 * KIB if place.how == :swap
        return LEAST_GROWTH + ((place.size - place.part.size) / GROWTH_SHARE) if place.grows?

        place.part.used * (place.how == :remake ? 2 : 1)
      end

      def part_to_h(place)
        entry = entry_of(place)
        { number: place.number, image_part: (place.part.number unless place.kept?), name: place.part.word, role: place.part.role,
          start_bytes: place.start, size_bytes: place.size, first_lba: entry&.first_lba, last_lba: entry&.last_lba,
          type: entry&.type, guid: entry&.guid, attributes: entry&.attributes, how: place.how, change: place.change,
          least_bytes: place.part.limits.least }
      end
    end
  end
end
