# frozen_string_literal: true

module Evrel
  # What common programs print of a computer, as somebody has it at hand: the
  # tables of its firmware (dmidecode), its devices (lspci -nn -k, modaliases),
  # both as JSON (lshw -json), and its start entries (efibootmgr -v).
  module Inventory
    LARGEST = MIB

    # field: maker, model, serial, identity (the system's UUID), firmware ("uefi"
    # or "bios"), secure_boot, boot_entries, boot_order or hardware; value; source:
    # the program whose text says so.
    Fact = Struct.new(:field, :value, :source, keyword_init: true)

    class << self
      # @param text [String] one or more of those texts, in any order
      # @return [Array<Fact>] at most one a field
      # @raise [Damaged] where nothing of it is understood, or it is too large
      def read(text)
        raise Damaged.new("the text has more than #{LARGEST / MIB} MiB", hint: 'give what one program printed') if text.bytesize > LARGEST

        text = text.dup.force_encoding('UTF-8').scrub('?').gsub("\r\n", "\n")
        facts = readers.flat_map { |reader| reader.read(text) }.uniq(&:field)
        return facts if facts.any?

        raise Damaged.new('nothing of it was understood',
                          hint: 'give what dmidecode, lspci -nn -k, lshw -json or efibootmgr -v print, or a list of modaliases')
      end

      # What says it best stands first.
      def readers = [FirmwareTables, HardwareTree, StartEntries, Devices]

      # What makers leave where they write nothing.
      # @return [String, nil]
      def said(value)
        text = value.to_s.strip
        text unless text.empty? || NOTHING.include?(text.downcase) || text.downcase.match?(BLANK)
      end

      # @return [String, nil] a UUID, unless it is one of those that many boards share
      def identity(value)
        uuid = value.to_s.strip[/\A\h{8}-\h{4}-\h{4}-\h{4}-\h{12}\z/]&.upcase or return
        uuid unless uuid.delete('-').chars.uniq.size < 4 || uuid.start_with?('03000200-0400-0500')
      end
    end

    # As they stand there, in small letters.
    NOTHING = ['default string', 'system serial number', 'system product name', 'system manufacturer', 'system version', 'none', 'n/a',
               'chassis serial number', 'not specified', 'not applicable', 'unknown', 'undefined', 'oem', 'o.e.m.', '123456789',
               '1234567890'].freeze
    BLANK = /\A(?:to be filled.*|[0.\-_ ]+)\z/
  end
end
