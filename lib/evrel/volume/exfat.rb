# frozen_string_literal: true

module Evrel
  module Volume
    # exFAT, of which only what describes it is read (exFAT file system
    # specification): it says where it lies, with a checksum over that.
    class Exfat < Opaque
      PLACE = 64   # PartitionOffset, 64 bits (3.1)
      SECTORS = 12 # of a boot region, of which there are two; the last holds the checksum over the others

      # @param start [Integer] byte of the disk
      # @return [Array<(Integer, String, String)>]
      def place_fields(start, **)
        [0, SECTORS * least_sector].flat_map do |region|
          bytes = @disk.read(region, (SECTORS - 1) * least_sector)
          bytes[PLACE, 8] = [start / least_sector].pack('Q<')
          [[region + PLACE, bytes.byteslice(PLACE, 8), 'partition offset'],
           [region + ((SECTORS - 1) * least_sector), [sum(bytes)].pack('V') * (least_sector / 4), 'checksum of the boot region']]
        end
      end

      private

      # 3.4: flags and "percent in use" do not count.
      def sum(bytes)
        bytes.each_byte.with_index.reduce(0) do |sum, (byte, at)|
          [106, 107, 112].include?(at) ? sum : (((sum << 31) | (sum >> 1)) + byte) & 0xFFFF_FFFF
        end
      end
    end
  end
end
