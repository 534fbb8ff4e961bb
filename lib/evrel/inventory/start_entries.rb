# frozen_string_literal: true

module Evrel
  module Inventory
    # What efibootmgr prints (with -v: where each leads): "BootOrder: 0001,0000",
    # "Boot0001* Name<tab>HD(1,GPT,…)/File(\EFI\…)". It works only where the
    # computer was started by UEFI.
    module StartEntries
      SOURCE = 'efibootmgr'
      ENTRY = /^Boot(\h{4})(\*?) (.*?)(?:\t(.*))?$/
      PARTITION = /HD\(\d+,GPT,(\h{8}-\h{4}-\h{4}-\h{4}-\h{12})/
      LOADER = %r{/?(?:File\()?(\\EFI\\[^)\n]*?\.efi)\)?}i
      MOST = 100

      module_function

      # @return [Array<Fact>]
      def read(text)
        return [] unless text.match?(/^Boot(?:Order|Current): \h{4}/)

        entries = text.scan(ENTRY).first(MOST)
        order = text[/^BootOrder: ([\h,]+)/, 1].to_s.split(',')
        names = entries.to_h { |number, _, name,| [number, name.strip] }
        [Fact.new(field: :firmware, value: 'uefi', source: SOURCE),
         Fact.new(field: :boot_entries, value: entries.map { |_, _, name, leads| entry(name.strip, leads.to_s) }, source: SOURCE),
         Fact.new(field: :boot_order, value: order.filter_map { |number| names[number] }, source: SOURCE)]
      end

      def entry(name, leads)
        { 'name' => name, 'path' => leads[LOADER, 1], 'partition' => leads[PARTITION, 1]&.downcase }
      end
    end
  end
end
