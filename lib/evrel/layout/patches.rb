# frozen_string_literal: true

module Evrel
  module Layout
    # What has to be other in a part because of where it lies on the target, or
    # because identities were renewed.
    class Patches
      # Sector of 512 bytes in which GRUB's core names its other sectors, as
      # entries of 12 bytes from 0x1F4 downwards: first sector (64 bits),
      # number (16), segment (16); the one without a number ends it (GRUB, diskboot.S).
      BLOCK_LIST = 0x1F4
      BLOCK_ENTRY = 12

      # @param plan [Plan]
      # @param piece [Piece]
      # @param volume [Disk] what is written of the piece, as it is in the source
      def initialize(plan, piece, volume)
        @plan = plan
        @piece = piece
        @disk = volume
      end

      # @return [Array<Patch>]
      # @raise [Unreadable]
      def all
        return [] unless @piece.number && @disk.size >= 512

        @place = @plan.place_of(@piece.number)
        [*(place_fields if moved?), *references].reject do |patch|
          @disk.read(patch.offset - @piece.target_start, patch.bytes.bytesize) == patch.bytes
        end
      end

      private

      # A volume made anew knows nothing of its place.
      def moved? = @place.moves? || @piece.prepared?

      def place_fields
        return block_list if @place.part.type == Table::Types::BIOS_BOOT

        part = @place.part
        volume = Volume.recognise(@disk)
        # Logical partitions may count from their own record: such a number stays right.
        fits = ->(old) { !part.logical || [0, part.start / volume.least_sector].include?(old) }
        volume.place_fields(@piece.target_start, fits:).map { |at, bytes, why| patch(at, bytes, why) }
      rescue Damaged
        [] # what cannot be read is carried over as it is
      end

      # The code between the partitions of a GPT names its own sectors.
      def block_list
        by = (@piece.target_start - @place.part.start) / 512
        (0..30).lazy.map do |index|
          BLOCK_LIST - (index * BLOCK_ENTRY)
        end.take_while { |at| @disk.read(at + 8, 2).unpack1('v').positive? }.map do |at|
          patch(at, [@disk.read(at, 8).unpack1('Q<') + by].pack('Q<'), 'block list of the loader')
        end.to_a
      end

      def references
        return [] unless @plan.renames? && @plan.wish.rewrite?

        files = References.new(@disk)
        (files.places(@plan.renewed) + files.devices { |device| @plan.named_by(device) }).select(&:offset).map do |one|
          patch(one.offset, one.text, "#{one.path} names #{one.old}")
        end
      end

      def patch(at, bytes, why) = Patch.new(offset: @piece.target_start + at, bytes:, why:)
    end
  end
end
