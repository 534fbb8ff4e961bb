# frozen_string_literal: true

module Evrel
  module Table
    # A table as a script that sfdisk(8) reads: `sfdisk DISK < layout.sfdisk`.
    module SfdiskScript
      # @param table [Gpt, Mbr]
      # @return [String]
      def self.dump(table) = table.kind == 'gpt' ? gpt(table) : mbr(table)

      def self.mbr(table)
        lines = ['label: dos', "label-id: 0x#{table.guid}", 'unit: sectors', "sector-size: #{table.sector}", '']
        lines += [table.extended, *table.partitions].compact.sort_by(&:number).map do |part|
          fields = "start=#{part.first_lba}, size=#{part.last_lba - part.first_lba + 1}, type=#{part.type.delete_prefix('0x')}"
          "#{part.number} : #{fields}#{', bootable' if part.respond_to?(:active?) && part.active?}"
        end
        "#{lines.join("\n")}\n"
      end

      def self.gpt(gpt)
        lines = ['label: gpt', "label-id: #{gpt.guid.upcase}", 'unit: sectors', "first-lba: #{gpt.first_usable}",
                 "last-lba: #{gpt.last_usable}", "table-length: #{gpt.entry_count}", "sector-size: #{gpt.sector}", '']
        lines += gpt.partitions.map do |part|
          fields = ["start=#{part.first_lba}", "size=#{part.last_lba - part.first_lba + 1}", "type=#{part.type.upcase}",
                    "uuid=#{part.guid.upcase}"]
          fields << "name=\"#{part.name.gsub(/["\\[:cntrl:]]/) { |char| format('\\x%02x', char.ord) }}\""
          fields << "attrs=\"#{attributes(part.attributes)}\"" unless part.attributes.zero?
          "#{part.number} : #{fields.join(', ')}"
        end
        "#{lines.join("\n")}\n"
      end

      # Bits 0 to 2 have names (UEFI specification, table 5-8), 48 to 63 belong to the type.
      def self.attributes(bits)
        named = { 0 => 'RequiredPartition', 1 => 'NoBlockIOProtocol', 2 => 'LegacyBIOSBootable' }
        (0..63).select { |bit| bits[bit] == 1 }.map { |bit| named[bit] || "GUID:#{bit}" }.join(' ')
      end
      private_class_method :attributes, :gpt, :mbr
    end
  end
end
