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
      HIDDEN = 28        # hidden sectors of FAT and NTFS, 32 bits
      EXFAT_PLACE = 64   # PartitionOffset of exFAT, 64 bits (exFAT specification, 3.1)
      EXFAT_SECTORS = 12 # of a boot region; the last holds the checksum over the others

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
        return block_list if @place.part.type == Tables::BIOS_BOOT

        volume = Volume.recognise(@disk)
        case volume
        when Volume::Fat then fat(volume)
        when Volume::Ntfs then ntfs(volume)
        else exfat
        end
      rescue Damaged
        [] # what cannot be read is carried over as it is
      end

      def fat(volume) = volume.boot_copies.filter_map { |at| hidden(at, volume.boot.sector_size) }

      def ntfs(volume)
        sector = volume.boot.sector_size.to_i
        volume.boot_copies.filter_map { |at| hidden(at, sector) }
      end

      # Logical partitions may count from their own record: such a number stays right.
      def hidden(boot, sector)
        part = @place.part
        old = @disk.read(boot + HIDDEN, 4).unpack1('V')
        return if part.logical && ![0, part.start / sector].include?(old)

        patch(boot + HIDDEN, [@piece.target_start / sector].pack('V'), 'hidden sectors')
      end

      def exfat
        head = @disk.read(0, 512)
        shift = head.getbyte(108)
        return [] unless head.byteslice(3, 8) == 'EXFAT   ' && shift.between?(9, 12)

        sector = 1 << shift
        [0, EXFAT_SECTORS * sector].flat_map do |region|
          bytes = @disk.read(region, (EXFAT_SECTORS - 1) * sector)
          bytes[EXFAT_PLACE, 8] = [@piece.target_start / sector].pack('Q<')
          [patch(region + EXFAT_PLACE, bytes.byteslice(EXFAT_PLACE, 8), 'partition offset'),
           patch(region + ((EXFAT_SECTORS - 1) * sector), [exfat_sum(bytes)].pack('V') * (sector / 4), 'checksum of the boot region')]
        end
      end

      # exFAT specification, 3.4: flags and "percent in use" do not count.
      def exfat_sum(bytes)
        bytes.each_byte.with_index.reduce(0) do |sum, (byte, at)|
          [106, 107, 112].include?(at) ? sum : (((sum << 31) | (sum >> 1)) + byte) & 0xFFFF_FFFF
        end
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
