# frozen_string_literal: true

require 'securerandom'

module Evrel
  module Volume
    # For the kinds whose boot sector says how many sectors lie in front of the
    # volume (FAT and NTFS: 32 bits at 28), and holds its serial number. They
    # have `boot`, with its sector size.
    module BootSectors
      HIDDEN = 28

      # @param start [Integer] byte of the disk
      # @param fits [#call]
      # @return [Array<(Integer, String, String)>]
      def place_fields(start, fits: ->(_) { true })
        boot_copies.filter_map do |at|
          next unless fits.call(@disk.read(at + HIDDEN, 4).unpack1('V'))

          [at + HIDDEN, [start / least_sector].pack('V'), 'hidden sectors']
        end
      end

      def least_sector = boot.sector_size.to_i
      def fresh_identity = uuid&.gsub(/\h/) { SecureRandom.hex(1)[0].upcase }
    end
  end
end
