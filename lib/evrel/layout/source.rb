# frozen_string_literal: true

module Evrel
  module Layout
    # What an image brings, as plain data: kind is 'gpt', 'mbr' or nil, parts
    # are in the order in which they lie on the disk, outside is what it holds
    # beside them and the table, as byte offset and length; absent are the names
    # of parts that were left out when it was taken.
    Source = Struct.new(:kind, :sector, :size, :table, :parts, :outside, :absent, keyword_init: true) do
      # @param image [Image::Native, Image::Foreign]
      # @param limits [Boolean] whether the volumes are asked how small they can become
      # @return [Source]
      # @raise [Damaged, Unreadable]
      def self.of(image, limits: true)
        table = image.table
        parts = table ? held(image, table).map { |one| part(image, table, one, limits) } : []
        new(kind: table&.kind, sector: table&.sector || image.manifest.logical_sector, size: image.disk.size, table:, parts:,
            outside: outside(image, table), absent: image.manifest.not_taken.map { |part| Source.words(part) })
      end

      def self.words(part) = part['name'].to_s.empty? ? "part #{part['number']}" : part['name']

      # @return [Array<Table::Partition>] those that are in the image, as they lie on the disk
      def self.held(image, table)
        absent = image.manifest.not_taken.map { |part| part['number'] }
        table.partitions.reject { |one| absent.include?(one.number) }.sort_by(&:first_lba)
      end

      # @return [Array<(Integer, Integer)>]
      def self.outside(image, table)
        return [] unless table

        found = Image::Outside.new(image.disk, table)
        image.manifest.document['kept_whole'] ? found.gaps : found.found
      end

      # @return [Part]
      def self.part(image, table, one, limits)
        window = one.window(image.disk)
        described = image.manifest.partition(one.number)&.fetch('volume', nil)
        volume, = Volume.recognise_or_unknown(window) if limits || described.nil?
        described ||= Image::Description.volume(volume)
        described = described.merge('sector_size' => volume.least_sector) if limits
        Part.new(number: one.number, name: one.name, role: one.role, type: one.type, guid: one.guid, attributes: one.attributes,
                 start: one.start, size: one.size, volume: described, logical: table.kind == 'mbr' && one.number > 4,
                 limits: limits ? volume.limits(described['doubts'].to_a) : not_looked_at(one))
      end

      def self.not_looked_at(one) = Volume::Limits.fixed(one.size, 'not looked at')

      def part(number) = parts.find { |part| part.number == number }
    end
  end
end
