# frozen_string_literal: true

module Evrel
  module Startup
    # The devices of a computer, as `lspci -nn -k` lists them, or as their
    # modaliases (Linux's Documentation/driver-api/…: "pci:v…d…sv…sd…bc…sc…i…").
    class HardwareList
      LARGEST = 256 * KIB
      MOST = 500

      VIRTIO = '1AF4'
      OLDER_VIRTIO = { 0x1000 => 1, 0x1001 => 2, 0x1004 => 8 }.freeze

      # slot as lspci says it; word in words; modalias as the kernel asks for a
      # driver; driver in use where the list was taken, or nil.
      Device = Struct.new(:slot, :word, :modalias, :driver, keyword_init: true) do
        # @return [Symbol] :storage, :network, :graphics or :other, by the PCI base class
        def role = { '01' => :storage, '02' => :network, '03' => :graphics }.fetch(modalias[/bc(\h\h)/, 1], :other)

        # @return [Array<String>] what the kernel asks a driver for: the device on its bus, and what is behind it
        def aliases = [modalias, behind].compact

        # A virtio device on PCI (virtio 1.2, 4.1.2.1): the numbers of those of today are 0x1040 and the kind, older ones
        # have a list of their own.
        # @return [String, nil]
        def behind
          vendor, device = modalias.match(/\Apci:v0000(\h{4})d0000(\h{4})/)&.captures
          return unless vendor == VIRTIO

          kind = OLDER_VIRTIO[device.hex] || (device.hex - 0x1040)
          "virtio:d#{kind.to_s(16).upcase.rjust(8, '0')}v0000#{VIRTIO}" if kind.between?(1, 64)
        end

        # @return [Array<String>] as drivers of an NTFS system are named for it, the most special one first
        def hardware_ids
          vendor, device, sub_vendor, sub_device, base, sub, interface =
            modalias.match(/\Apci:v0000(\h{4})d0000(\h{4})sv0000(\h{4})sd0000(\h{4})bc(\h\h)sc(\h\h)i(\h\h)/)&.captures
          return [] unless vendor

          of = "PCI\\VEN_#{vendor}&DEV_#{device}"
          ["#{of}&SUBSYS_#{sub_device}#{sub_vendor}", "#{of}&CC_#{base}#{sub}#{interface}", "#{of}&CC_#{base}#{sub}", of,
           "PCI\\CC_#{base}#{sub}#{interface}", "PCI\\CC_#{base}#{sub}"].map(&:upcase)
        end
      end

      # "00:17.0 SATA controller [0106]: Maker Model [1ee7:0106] (rev 10) (prog-if 01 [AHCI 1.0])"
      LINE = /\A((?:\h{4}:)?\h\h:\h\h\.\h)\s+(.+?)\s+\[(\h{4})\]:\s+(.*?)\s*\[(\h{4}):(\h{4})\]/
      INTERFACE = /\(prog-if (\h\h)/
      SUBSYSTEM = /\A\s+(?:Subsystem|DeviceName):.*\[(\h{4}):(\h{4})\]/
      DRIVER = /\A\s+Kernel driver in use:\s*(\S+)/
      MODALIAS = /\Apci:v\h{8}d\h{8}sv\h{8}sd\h{8}bc\h\hsc\h\hi\h\h/i
      LINE_ANYWHERE = /^(?:(?:\h{4}:)?\h\h:\h\h\.\h\s+.+?\s+\[\h{4}\]:\s+.*\[\h{4}:\h{4}\]|pci:v\h{8}d\h{8})/i
      # What lspci leaves out where it is the usual one: SATA by AHCI, NVM Express, USB by xHCI.
      USUAL = { '0106' => '01', '0108' => '02', '0c03' => '30' }.freeze

      attr_reader :devices

      # @param text [String]
      # @return [HardwareList]
      # @raise [Damaged] where no line of it names a device
      def self.parse(text) = new(text)

      def initialize(text)
        raise Damaged.new('the list of hardware is too long', where: 'hardware') if text.bytesize > LARGEST

        @devices = []
        text.encode('UTF-8', invalid: :replace, undef: :replace).scrub.each_line { |line| take(line.chomp) }
        return unless @devices.empty?

        raise Damaged.new('the list of hardware names no device', where: 'hardware',
                                                                  hint: 'give what lspci -nn -k prints')
      end

      # @return [Array<Device>]
      def of(role) = devices.select { |device| device.role == role }

      private

      def take(line)
        if (match = line.match(LINE)) then listed(line, *match.captures)
        elsif line.match?(MODALIAS) then add(Device.new(slot: nil, word: line[0, 29], modalias: upper(line[MODALIAS])))
        elsif (match = line.match(SUBSYSTEM)) then subsystem(*match.captures)
        elsif (match = line.match(DRIVER)) then devices.last&.driver = match[1]
        end
      end

      def listed(line, slot, kind, code, model, vendor, device)
        interface = line[INTERFACE, 1] || USUAL.fetch(code, '00')
        add(Device.new(slot:, word: "#{kind} #{model}".strip,
                       modalias: alias_of(vendor, device, '0000', '0000', code, interface)))
      end

      def alias_of(vendor, device, sub_vendor, sub_device, code, interface)
        upper("pci:v0000#{vendor}d0000#{device}sv0000#{sub_vendor}sd0000#{sub_device}bc#{code[0, 2]}sc#{code[2, 2]}i#{interface}")
      end

      # Letters that separate are small, digits are not.
      def upper(text)
        text.downcase.gsub(/(v|d|sv|sd)(\h{8})|(bc|sc|i)(\h\h)/) do
          "#{::Regexp.last_match(1) || ::Regexp.last_match(3)}#{(::Regexp.last_match(2) || ::Regexp.last_match(4)).upcase}"
        end
      end

      def subsystem(vendor, device)
        devices.last&.modalias&.sub!(/sv\h{8}sd\h{8}/, "sv0000#{vendor.upcase}sd0000#{device.upcase}")
      end

      def add(device)
        raise Damaged.new('the list of hardware is too long', where: 'hardware') if devices.size >= MOST

        devices << device
      end
    end
  end
end
