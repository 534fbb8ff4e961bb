# frozen_string_literal: true

module Evrel
  module Inventory
    # What dmidecode prints of the firmware's tables (SMBIOS 3.x, type 0: BIOS
    # Information, type 1: System Information): sections, each with indented lines.
    module FirmwareTables
      SOURCE = 'dmidecode'
      # Within type 1.
      FIELDS = { 'Manufacturer' => :maker, 'Product Name' => :model, 'Serial Number' => :serial, 'UUID' => :identity }.freeze

      module_function

      # @return [Array<Fact>]
      def read(text)
        system = section(text, 'System Information')
        found = FIELDS.filter_map do |name, field|
          raw = system[/^\s+#{name}:[ \t]*(.+)$/, 1]
          value = field == :identity ? Inventory.identity(raw) : Inventory.said(raw)
          Fact.new(field:, value:, source: SOURCE) if value
        end
        # Where the tables do not speak of UEFI at all, there is none; where they do, the computer may start by either.
        bios = section(text, 'BIOS Information')
        only = bios.match?(/^\s+Characteristics:/) && !bios.include?('UEFI is supported')
        only ? [*found, Fact.new(field: :firmware, value: 'bios', source: SOURCE)] : found
      end

      # @return [String] its lines; empty where there is none
      def section(text, title) = text[/^#{title}[ \t]*\n((?:[ \t]+.*\n?)+)/, 1].to_s
    end
  end
end
