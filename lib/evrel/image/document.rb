# frozen_string_literal: true

require 'json'
require 'time'

module Evrel
  module Image
    # What an image is of, as plain data: the computer, the drive, the time of
    # the taking, table and volumes. docs/manifest.schema.json describes it.
    class Document
      # @return [Hash]
      attr_reader :document

      # @param document [Hash]
      # @raise [Damaged] where what the core relies on is not there
      def initialize(document)
        @document = document
        check
      end

      def id = document['id']
      def taken_at = Time.iso8601(document['taken_at'])
      def size = document.dig('disk', 'size_bytes')
      def logical_sector = document.dig('disk', 'logical_sector')
      def used_bytes = document['used_bytes']

      # @return [Integer] bytes that a target must have for the image as it is: up to
      #   the end of the last part, and the backup table behind it
      def needs
        return size unless table?

        last = partitions.map { |part| part['start_bytes'] + part['size_bytes'] }.max || 0
        table_kind == 'gpt' ? last + (33 * logical_sector) : last
      end

      # What volumes of these kinds do not use can be given up, but for some air.

      # @return [Integer] about the bytes that a target must have when parts shrink; the planner computes it exactly
      def least
        needs - partitions.sum { |part| spare_of(part) }
      end

      def stored_clusters = document.dig('disk', 'clusters')
      def computer = document['computer']
      def drive = document['drive']
      def systems = document['systems'] || []
      # @return [Array<Hash>] the parts that it holds
      def partitions = on_the_disk.reject { |part| part['taken'] == false }

      # @return [Array<Hash>] the parts that somebody left out when it was taken: nothing of them is in it
      def not_taken = on_the_disk.select { |part| part['taken'] == false }

      def table? = !document['table'].nil?
      def table_kind = document.dig('table', 'kind')
      def disk_guid = document.dig('table', 'guid')
      def note = document['note']

      # What could not be read when the image was taken: zeros stand there.
      # @return [Array<(Integer, Integer)>] byte offset and length of each place on the disk, ascending
      def unread = document['unread'] || []

      # @return [String, nil] what kind of container a passphrase opens, where one does
      def locked = document['locked']

      # The image on top of which this one lies: "id", "path" (relative to this one's folder) and "depth", how many there are
      # below it.
      # @return [Hash, nil]
      def onto = document['onto']

      # Files whose contents are zeros, since the system makes them anew and nobody wanted them: "part", "path" and "bytes".
      # @return [Array<Hash>]
      def temporary = document['temporary'] || []

      # What is not in the image, by the maps that call it free: "part" (or nil), "map", "ranges" and "bytes".
      # @return [Array<Hash>]
      def left_out = document['left_out'] || []

      # The first version of our own format: maps of used blocks were believed as they were.
      UNPROVED = 1

      # @return [Boolean] whether it may lack something that a map wrongly called free
      def unproved? = document['version'] == UNPROVED

      # @return [Array<Hash>] the parts on which a system sleeps, whose memory counts for more than what lies there
      def asleep = parts.select { |part| part.dig('volume', 'hibernated') }

      # @return [Array<Hash>] the parts of which the map of used blocks was not believed, or not all of it
      def doubtful = parts.select { |part| part.dig('volume', 'doubts')&.any? }

      # @return [Integer]
      def unread_sectors = unread.sum { |_, length| length.fdiv(logical_sector).ceil }

      # All parts with a volume: those of the table, or the one volume that fills the disk.
      # @return [Array<Hash>] as "partitions"
      def parts
        return partitions if table? || document['volume'].nil?

        [{ 'number' => 1, 'start_bytes' => 0, 'size_bytes' => size, 'role' => 'data', 'name' => '', 'type_name' => 'Volume without a table',
           'volume' => document['volume'], 'damage' => document['damage'] }.compact]
      end

      # @param number [Integer] of the partition; 1 where there is no table
      # @return [Hash, nil]
      def partition(number) = parts.find { |part| part['number'] == number }

      # @param part [Hash] one of them
      # @param offset [Integer] bytes on the disk
      # @param length [Integer] bytes
      # @return [Boolean] whether a range of the disk touches it
      def self.touches?(part, offset, length)
        offset < part['start_bytes'] + part['size_bytes'] && offset + length > part['start_bytes']
      end

      def to_json(*) = JSON.pretty_generate(document)

      private

      def on_the_disk = document.dig('table', 'partitions') || []

      # Start-up, reserved and recovery parts keep their size.
      def spare_of(part)
        volume = part['volume'] || {}
        return 0 unless %w[system data].include?(part['role']) && Volume.shrinkable?(volume['kind']) && volume['clean'] != false &&
                        volume['doubts'].nil?

        needed = (volume['used_bytes'].to_i * (100 + Layout::AIR_PERCENT) / 100) + Layout::LEAST_AIR
        [part['size_bytes'] - needed, 0].max
      end

      def check
        raise bad('is no object') unless document.is_a?(Hash)

        check_numbers
        check_parts
        check_unread
        check_time
      end

      def check_numbers
        sector = document.dig('disk', 'logical_sector')
        raise bad("has sectors of #{sector.inspect} bytes") unless [512, 4096].include?(sector)
        raise bad("has a disk of #{size.inspect} bytes") unless size.is_a?(Integer) && size.positive?
        raise bad('does not say how much is used') unless used_bytes.is_a?(Integer) && stored_clusters.is_a?(Integer)
        raise bad('names no computer or drive') unless computer.is_a?(Hash) && drive.is_a?(Hash)
      rescue TypeError
        raise bad('is not built like one')
      end

      def check_parts
        fine = on_the_disk.is_a?(Array) && on_the_disk.all?(Hash)
        raise bad('has a list of partitions that is none') unless fine

        wrong = on_the_disk.find { |part| !part?(part) }
        raise bad("has a partition that is not built like one: #{wrong['number'].inspect}") if wrong
      rescue TypeError
        raise bad('is not built like one')
      end

      def part?(part)
        volume = part['volume'] || {}
        return false unless volume.is_a?(Hash) && (volume['doubts'].nil? || volume['doubts'].is_a?(Array))

        [*part.values_at('start_bytes', 'size_bytes'), volume['used_bytes'] || 0].all? { |bytes| bytes.is_a?(Integer) && bytes >= 0 }
      end

      def check_unread
        fine = unread.is_a?(Array) && unread.all? { |place| place?(place) } &&
               unread.each_cons(2).all? { |one, two| one.sum <= two.first }
        raise bad('has a list of unread places that is none') unless fine
      end

      def place?(place)
        place.is_a?(Array) && place.size == 2 && place.all?(Integer) && place.first >= 0 && place.last.positive? && place.sum <= size
      end

      def check_time
        taken_at
      rescue ArgumentError, TypeError
        raise bad("was taken at #{document['taken_at'].inspect}")
      end

      def bad(message) = Damaged.new("the manifest #{message}", where: 'manifest.json')
    end
  end
end
