# frozen_string_literal: true

module Evrel
  # What lies on a disk, as plain data: disk_guid of its table (of an MBR its
  # signature), parts as in a manifest (each with "volume"), systems and their
  # host names, fingerprint (see Identity), written_at and started_at as its file
  # systems say; problem is a message where the table cannot be trusted or the
  # disk cannot be read. The one place where the application and the terminal
  # ask what is on a disk.
  Survey = Struct.new(:disk_guid, :table_kind, :parts, :systems, :fingerprint, :written_at, :started_at, :problem, keyword_init: true) do
    class << self
      # @param disk [Disk]
      # @return [Survey] also where it cannot be read: then it says why
      def of(disk)
        fingerprint = Identity.fingerprint(disk)
        map = Image::UsedMap.new(disk, prove: false)
        new(disk_guid: map.table&.guid, table_kind: map.table&.kind, parts: parts_of(map), systems: Image::Systems.of(map), fingerprint:,
            written_at: map.all.filter_map { |part| time(part.volume, :written_at) }.max, started_at: started_at(map))
      rescue Damaged, Unreadable => e
        nothing(problem: e.message, fingerprint:)
      end

      # @param plain [Hash] as `to_plain` gives it
      # @return [Survey]
      def parse(plain)
        new(**plain.transform_keys(&:to_sym), **Survey::TIMES.to_h do |name|
          [name, plain[name.to_s] && Time.at(Rational(plain[name.to_s]))]
        end)
      end

      # @return [Survey] of what nobody has looked at
      def nothing(**known) = new(parts: [], systems: [], **known)

      private

      # A disk without a table counts as one part, without a number.
      def parts_of(map)
        return map.parts.map { |part| Image::Description.partition(part) } if map.table
        return [] if map.empty?

        [{ 'number' => nil, 'role' => 'data', 'name' => '', 'start_bytes' => 0, 'size_bytes' => map.whole.disk.size,
           **Image::Description.contents(map.whole) }]
      end

      # When the system on it last mounted its part.
      def started_at(map)
        map.parts.select { |part| part.partition.role == :system }.filter_map { |part| time(part.volume, :mounted_at) }.max
      end

      def time(volume, name) = volume.public_send(name)
    end

    # @return [Hash] what JSON can say, without loss
    def to_plain = to_h.merge(Survey::TIMES.to_h { |name| [name, self[name]&.to_r&.to_s] })

    # @return [Boolean] whether it was read, and has neither a table nor contents that anything knows
    def blank? = problem.nil? && !fingerprint.nil? && table_kind.nil? && parts.empty?

    # @return [Array<String>] of its systems
    def hosts = systems.filter_map { |system| system['host'] }.uniq

    # @return [Array<Hash>] what its parts hold, each with the "role" of its part
    def volumes = parts.map { |part| part['volume'].merge('role' => part['role']) }
  end
  Survey::TIMES = %i[written_at started_at].freeze
end
