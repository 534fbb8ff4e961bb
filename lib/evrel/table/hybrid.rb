# frozen_string_literal: true

module Evrel
  module Table
    # The four entries of an MBR in front of a GPT that are more than
    # protective: some of them repeat partitions of the GPT for firmware that
    # reads no GPT. Kept as they are, moved with their partitions.
    module Hybrid
      module_function

      # @param record [String] sector 0
      # @return [String, nil] 64 bytes; nil where the MBR is plainly protective
      def in(record)
        entries = record.byteslice(Mbr::ENTRIES, 64).to_s
        types = Array.new(4) { |index| entries.getbyte((index * 16) + 4) }
        entries if types.include?(Mbr::PROTECTIVE) && types.any? { |type| ![0, Mbr::PROTECTIVE, nil].include?(type) }
      end

      # @param entries [String] 64 bytes
      # @param places [Hash] first LBA now → first and last LBA then
      # @return [String] 64 bytes: entries whose partition is gone are empty
      def moved(entries, places)
        slots = Array.new(4) { |index| entries.byteslice(index * 16, 16) }
        moved = slots.map { |slot| slot_moved(slot, places) }
        first = moved.filter_map { |slot| first_of(slot) unless [0, Mbr::PROTECTIVE].include?(slot.getbyte(4)) }.min
        moved.map { |slot| slot.getbyte(4) == Mbr::PROTECTIVE && first ? slot.byteslice(0, 8) + [1, first - 1].pack('V2') : slot }.join
      end

      def slot_moved(slot, places)
        return slot if [0, Mbr::PROTECTIVE].include?(slot.getbyte(4))

        first, last = places[first_of(slot)]
        return "\0".b * 16 unless first && last < Mbr::MOST_SECTORS

        [slot.byteslice(0, 1), "\xFE\xFF\xFF".b, slot.byteslice(4, 1), "\xFE\xFF\xFF".b, [first, last - first + 1].pack('V2')].join
      end

      def first_of(slot) = slot.unpack1('@8V')
      private_class_method :slot_moved, :first_of
    end
  end
end
