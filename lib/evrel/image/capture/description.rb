# frozen_string_literal: true

module Evrel
  module Image
    # A disk's table and volumes as plain data, for manifests, the API and the
    # command line.
    module Description
      module_function

      # @param map [UsedMap]
      # @return [Hash] "table" (nil without one) and, without a table, "volume" and its "damage"
      def of(map)
        return { 'table' => nil, **contents(map.whole) } unless map.table

        { 'table' => {
          'kind' => map.table.kind, 'guid' => map.table.guid, 'sector' => map.table.sector,
          'first_usable' => map.table.first_usable, 'last_usable' => map.table.last_usable,
          'extended' => extended(map.table), 'findings' => map.table.findings, 'partitions' => map.parts.map { |part| partition(part) }
        }.compact }
      end

      # The container of logical partitions, where an MBR has one.
      def extended(table) = table.kind == 'mbr' ? table.extended&.to_h&.transform_keys(&:to_s) : nil

      # @param part [UsedMap::Part]
      def partition(part) = entry(part.partition).merge(contents(part), part.passed_over ? { 'taken' => false } : {})

      # @param part [UsedMap::Part]
      # @return [Hash] "volume" and, where something is wrong with it, "damage"
      def contents(part)
        found = volume(part.volume)
        found = found.merge('used_bytes' => part.used_bytes, 'doubts' => part.doubts) if part.doubts.any?
        { 'volume' => found, 'damage' => part.error&.message }.compact
      end

      # @param entry [Table::Partition]
      def entry(entry)
        { 'number' => entry.number, 'first_lba' => entry.first_lba, 'last_lba' => entry.last_lba,
          'start_bytes' => entry.start, 'size_bytes' => entry.size, 'type' => entry.type,
          'type_name' => entry.type_name, 'role' => entry.role.to_s, 'guid' => entry.guid, 'name' => entry.name,
          'attributes' => entry.attributes }
      end

      # What cannot be read of it is nil: it bars nothing else.
      def volume(volume)
        { 'kind' => volume.kind, 'label' => told { volume.label }, 'uuid' => told { volume.uuid }, 'size_bytes' => volume.size,
          'block_size' => volume.block_size, 'used_bytes' => volume.used_bytes, 'clean' => told { volume.clean? },
          'hibernated' => told { volume.hibernated? } || nil }.reject { |key, value| key == 'hibernated' && value.nil? }
      end

      def told
        yield
      rescue BadPlace, Unsupported
        nil
      end
      private_class_method :told
    end
  end
end
