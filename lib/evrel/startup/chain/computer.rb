# frozen_string_literal: true

module Evrel
  module Startup
    # What is known of the computer that is to start: its firmware, the entries
    # and the order that it keeps, what is attached, and its hardware.
    class Computer
      # An entry of a UEFI firmware: name, path of the loader, and which
      # partition it is on (its GUID); device is what stands for others: "USB",
      # "port 4", "network".
      Entry = Struct.new(:name, :path, :partition, :device, keyword_init: true)
      # A disk that is attached beside: port, what it is in words, role
      # (:rescue, :shelf, :twin or :other), GUID of its disk, and identities of
      # its partitions and volumes.
      Attached = Struct.new(:port, :bus, :word, :role, :disk_guid, :identities, :starts, keyword_init: true)

      FIRMWARES = %w[uefi bios].freeze

      attr_reader :kind, :entries, :order, :attached, :port
      # @return [String, nil] what says how it starts, where that is not known of the computer itself
      attr_reader :read_off

      # @param about [Hash] "firmware" ("uefi" or "bios"), "secure_boot", "compatibility" (whether a UEFI firmware starts
      #   by BIOS too), "entries" (hashes with "name", "path", "partition"), "boot_order" (names of entries and of devices),
      #   "hardware" (text of `lspci -nn -k`, or modalias lines), "loader" (path), "name"
      # @param attached [Array<Attached>] beside the disk that is read
      # @param port [String, nil] in which that one is
      # @return [Computer]
      # @raise [Damaged] where a field is not what it should be
      def self.from(about, attached: [], port: nil) = new(about, attached, port)

      def initialize(about, attached, port)
        @about = about
        @attached = attached
        @port = port
        @kind = about['firmware'] || about['kind'] || 'uefi'
        wrong('firmware', 'is “uefi” or “bios”') unless FIRMWARES.include?(@kind)
        @known = !(about['firmware'] || about['kind']).nil?
        @entries = list('entries').map do |one|
          Entry.new(name: one['name'].to_s, path: one['path']&.to_s, partition: one['partition']&.to_s)
        end
        @order = list('boot_order').map(&:to_s)
      end

      # @param disk [Disk]
      # @return [Computer] itself, or one that starts as the disk is made for
      def for_disk(disk)
        return self if @known

        kind, why = FirmwareKind.of(disk)
        dup.tap { |one| one.instance_exec { @kind, @read_off = kind, why } } # rubocop:disable Style/ParallelAssignment
      end

      def name = @about['name']
      def uefi? = kind == 'uefi'
      def secure_boot? = @about['secure_boot'] == true
      def compatibility? = @about['compatibility'] == true

      # @return [String, nil] path of the loader that its own entry for this disk names
      def loader = @about['loader']

      # @return [HardwareList, nil] nil where nothing is known of it
      def hardware
        @hardware ||= @about['hardware'] && HardwareList.parse(@about['hardware'].to_s)
      end

      private

      def list(field)
        value = @about[field]
        return [] if value.nil?

        wrong(field, 'is a list') unless value.is_a?(Array) && (field != 'entries' || value.all?(Hash))

        value
      end

      def wrong(field, what) = raise(Damaged.new("#{field} of the computer #{what}", where: field))
    end
  end
end
