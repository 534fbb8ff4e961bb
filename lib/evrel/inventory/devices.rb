# frozen_string_literal: true

module Evrel
  module Inventory
    # What lspci -nn -k prints, or modaliases: see Startup::HardwareList.
    module Devices
      module_function

      # @return [Array<Fact>]
      def read(text)
        lines = text.lines.select { |line| ours?(line) }.join
        return [] unless lines.match?(Startup::HardwareList::LINE_ANYWHERE)

        Startup::HardwareList.parse(lines)
        [Fact.new(field: :hardware, value: lines, source: lines.match?(/^pci:/i) ? 'modaliases' : 'lspci')]
      rescue Damaged
        []
      end

      def ours?(line)
        line.match?(Startup::HardwareList::LINE) || line.match?(Startup::HardwareList::MODALIAS) ||
          line.match?(/\A\s+(?:Subsystem|DeviceName|Kernel driver in use|Kernel modules):/)
      end
    end
  end
end
