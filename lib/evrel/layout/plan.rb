# frozen_string_literal: true

require 'digest'
require 'json'

module Evrel
  module Layout
    # Where everything goes: the table that the target gets (nil without one)
    # and the pieces that are written, in order.
    class Plan
      attr_reader :table, :pieces, :target_size

      def initialize(table:, pieces:, target_size:)
        @table = table
        @pieces = pieces
        @target_size = target_size
      end

      # @return [Integer] bytes behind the last part that nothing uses
      def free_at_end
        last = table ? table.partitions.map(&:end).max.to_i : pieces.map { |p| p.target_start + p.size }.max
        limit = table ? (table.last_usable + 1) * table.sector : target_size
        [limit - last, 0].max
      end

      # What the plan means, for the ledger.
      # @param physical_sector [Integer] of the target, bytes
      # @return [Array<Fact>]
      def facts(physical_sector)
        [fit, (alignment(physical_sector) if table), (room if free_at_end > MIB)].compact
      end

      def to_h
        { target_size:, free_at_end:,
          table: table && { kind: table.kind, guid: table.guid, sector: table.sector,
                            first_usable: table.first_usable, last_usable: table.last_usable },
          pieces: pieces.map(&:to_h) }
      end

      # @return [String] the same for the same plan
      def digest = Digest::SHA256.hexdigest(JSON.generate(to_h))

      private

      def fit
        need = target_size - free_at_end
        Fact.new(id: 'fits', state: :ok, title: 'It fits',
                 detail: "Needs #{Units.bytes(need)}; the disk has #{Units.bytes(target_size)}")
      end

      def alignment(physical)
        off = table.partitions.find { |part| (part.start % MIB).nonzero? }
        return aligned(physical) unless off

        if (off.start % physical).zero?
          return Fact.new(id: 'alignment', state: :ok, title: "Aligned to #{physical} bytes",
                          detail: "As in the image: part #{off.number} is not on a whole MiB")
        end

        Fact.new(id: 'alignment', state: :ask, title: "Part #{off.number} is not aligned",
                 detail: "It begins at sector #{off.first_lba}: slower on this drive, as it was in the image")
      end

      def aligned(physical)
        Fact.new(id: 'alignment', state: :ok, title: 'Aligned to 1 MiB',
                 detail: "Suits the #{physical}-byte sectors of this drive")
      end

      def room
        Fact.new(id: 'room', state: :ask, title: "#{Units.bytes(free_at_end)} stay unallocated",
                 detail: 'Behind the last part: this layout does not grow anything')
      end
    end
  end
end
