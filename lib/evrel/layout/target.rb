# frozen_string_literal: true

module Evrel
  module Layout
    # The disk that an image is fitted to: size, sector and physical_sector in
    # bytes; table is what is on it (Table::Gpt, Table::Mbr or nil), firmware
    # the computer's ('uefi', 'bios' or nil where it does not matter).
    Target = Struct.new(:size, :sector, :physical_sector, :table, :firmware, keyword_init: true) do
      # @param disk [Disk]
      # @param firmware [String, nil]
      def self.of(disk, firmware: nil)
        new(size: disk.size, sector: disk.logical_sector, physical_sector: disk.physical_sector, table: table_of(disk), firmware:)
      end

      # A table that cannot be trusted is no table: it goes with everything else.
      def self.table_of(disk)
        Table.read(disk)
      rescue Damaged, Unreadable
        nil
      end
    end
  end
end
