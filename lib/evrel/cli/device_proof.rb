# frozen_string_literal: true

module Evrel
  class CLI
    # A block device is overwritten only by somebody who has read its own label:
    # the last four characters of its serial or, where it has none, its
    # capacity in bytes. A regular file needs none.
    class DeviceProof
      LAST = 4 # characters

      # @param parser [OptionParser] gets the option
      def initialize(parser)
        @labels = []
        parser.on('--label TEXT') { |text| @labels << text.strip.upcase }
      end

      # @param path [String] of the target
      # @raise [Refused] where none of the labels is its own
      # @raise [Unreadable]
      def check(path)
        return unless ::File.blockdev?(path)

        wanted, what = Disk.at(path) { |device| label(device) }
        return if @labels.include?(wanted)

        raise Refused.new("#{path} is a device: --label has to say #{what}", where: path,
                                                                             hint: 'read it off the drive itself; nothing was written')
      end

      private

      def label(device)
        serial = device.serial
        return [device.size.to_s, 'its capacity in bytes, since it has no serial'] if serial.nil? || serial.size < LAST

        [serial[-LAST..].upcase, "the last #{LAST} characters of its serial"]
      end
    end
  end
end
