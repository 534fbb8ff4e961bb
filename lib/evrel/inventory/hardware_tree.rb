# frozen_string_literal: true

require 'json'

module Evrel
  module Inventory
    # What lshw -json prints: a tree of nodes with "class", "vendor", "product",
    # "serial", "configuration" and "children"; older versions put it into a list.
    module HardwareTree
      SOURCE = 'lshw'
      DEEPEST = 60

      module_function

      # @return [Array<Fact>]
      def read(text)
        return [] unless text.lstrip.start_with?('{', '[')

        tree = JSON.parse(text, max_nesting: DEEPEST)
        root = [tree].flatten.find { |node| node.is_a?(Hash) && node['class'] == 'system' } or return []

        said = { maker: Inventory.said(root['vendor']), model: Inventory.said(model(root)), serial: Inventory.said(root['serial']),
                 identity: Inventory.identity(root.dig('configuration', 'uuid')), firmware: firmware(root) }
        said.compact.map { |field, value| Fact.new(field:, value:, source: SOURCE) }
      rescue JSON::ParserError, TypeError
        []
      end

      # "Desk 5 (SKU 0042)" → "Desk 5"
      def model(root) = root['product'].to_s.sub(/ \([^()]*\)\z/, '')

      # @return [String, nil] "bios" where its firmware knows nothing of UEFI
      def firmware(root)
        node = walk(root).find { |one| one['id'] == 'firmware' } or return
        capabilities = node['capabilities']
        'bios' if capabilities.is_a?(Hash) && !capabilities.key?('uefi')
      end

      def walk(node, deep = 0)
        return [] if deep > DEEPEST || !node.is_a?(Hash)

        [node, *Array(node['children']).flat_map { |child| walk(child, deep + 1) }]
      end
    end
  end
end
