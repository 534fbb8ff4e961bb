# frozen_string_literal: true

module Evrel
  module Restore
    # One operation of a write; bytes is what it will move, nil where that says
    # nothing.
    Order = Struct.new(:id, :kind, :title, :detail, :bytes, :part, keyword_init: true)

    # The exact list of operations that a write will do.
    module Orders
      module_function

      # @param image [Image::Native]
      # @param plan [Layout::Plan]
      # @param read_back [Boolean]
      # @return [Array<Order>]
      def for(image, plan, read_back: true)
        parts = plan.pieces.each_with_index.map { |piece, index| part(image, piece, index) }
        total = parts.sum(&:bytes)
        [check, clear, *parts, (table(plan) if plan.table), (compare(total) if read_back)].compact
      end

      # @return [String] id of the order that writes the piece at +index+
      def part_id(index) = "part-#{index + 1}"

      def check
        Order.new(id: 'check', kind: :check, title: 'Check the target again',
                  detail: 'same drive, same contents as when it was sealed')
      end

      def clear
        Order.new(id: 'clear', kind: :clear, title: 'Clear the old partition table',
                  detail: 'both copies, then everything behind them is discarded')
      end

      def part(image, piece, index)
        bytes = image.digests.count_between(piece.clusters.begin, piece.clusters.end + 1) * Image::CLUSTER
        Order.new(id: part_id(index), kind: :part, title: "Write #{piece.name}",
                  detail: 'every cluster is checked before it is written', bytes:, part: piece.number)
      end

      def table(plan)
        Order.new(id: 'table', kind: :table, title: 'Write the partition table',
                  detail: "last, so that a broken write never looks whole; #{plan.table.partitions.size} parts")
      end

      def compare(total)
        Order.new(id: 'read-back', kind: :read_back, title: 'Read everything back and compare',
                  detail: 'from the disk itself', bytes: total)
      end
      private_class_method :check, :clear, :part, :table, :compare
    end
  end
end
