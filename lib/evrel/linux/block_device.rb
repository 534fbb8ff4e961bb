# frozen_string_literal: true

module Evrel
  module Linux
    # What the kernel says of a block device: Documentation/ABI/stable/sysfs-block of Linux.
    class BlockDevice
      PAGE = 'device/vpd_pg80' # SCSI Primary Commands: unit serial number page; its head takes 4 bytes

      # @param stat [File::Stat] of its node
      def initialize(stat)
        @folder = "/sys/dev/block/#{stat.rdev_major}:#{stat.rdev_minor}"
        # What goes for a whole device goes for its partitions.
        @whole = ::File.exist?("#{@folder}/partition") ? "#{@folder}/.." : @folder
      end

      # @return [Integer] bytes
      def logical_sector = number('queue/logical_block_size') || 512

      # @return [Integer] bytes
      def physical_sector = number('queue/physical_block_size') || logical_sector

      # @return [Boolean] whether it makes ranges zero by a mere command
      def zeroes? = number('queue/write_zeroes_max_bytes').to_i.positive?

      # @return [String, nil]
      def serial
        page = read(PAGE)
        [read('serial'), read('device/serial'), page&.b&.byteslice(4..)].compact.map { |text| text.scrub('').delete("\0").strip }
                                                                        .find { |text| !text.empty? }
      end

      private

      def number(name) = read(name)&.to_i

      def read(name)
        ::File.read(::File.join(@whole, name))
      rescue SystemCallError
        nil
      end
    end
  end
end
