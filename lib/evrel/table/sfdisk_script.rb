# frozen_string_literal: true

module Evrel
  module Table
    # A table as a script that sfdisk(8) reads: `sfdisk DISK < layout.sfdisk`.
    module SfdiskScript
      # @param gpt [Gpt]
      # @return [String]
      def self.dump(gpt)
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
      private_class_method :attributes
    end
  end
end
