# frozen_string_literal: true

module Evrel
  module Startup
    # The header of a program that a UEFI firmware runs (PE/COFF specification 8.3;
    # UEFI specification 2.10, 2.1.1).
    class Pe
      # IMAGE_FILE_HEADER.Machine → the word that people use
      MACHINES = { 0x014C => 'x86 (32 bits)', 0x8664 => 'x86-64', 0xAA64 => 'ARM 64', 0x01C2 => 'ARM (32 bits)' }.freeze
      AMD64 = 0x8664
      # Optional header: Subsystem of EFI applications, boot service and run-time drivers.
      EFI = [10, 11, 12].freeze
      HEAD = 16 * KIB
      # Sections that are listed; a hostile header may claim more.
      MOST_SECTIONS = 96

      # offset and size are bytes of the file
      Section = Struct.new(:name, :offset, :size, keyword_init: true)

      attr_reader :machine, :sections

      # @param head [String] the first HEAD bytes of a file
      # @return [Pe, nil] nil where it is no such program
      def self.read(head)
        # "MZ"; the offset of the header at 0x3C; "PE\0\0".
        at = head.start_with?('MZ') && head.byteslice(0x3C, 4)&.unpack1('V')
        new(head, at) if at && at + 0x100 < head.bytesize && head.byteslice(at, 4) == "PE\0\0".b
      end

      def initialize(head, offset)
        @head = head
        @machine, count, optional = head.byteslice(offset + 4, 18).unpack('vvx12v')
        @optional = offset + 24
        @sections = read_sections(@optional + optional, [count, MOST_SECTIONS].min)
      end

      def machine_name = MACHINES.fetch(machine) { format('machine 0x%04x', machine) }
      def amd64? = machine == AMD64

      # @return [Boolean] whether a firmware takes it for a program of its own
      def efi? = EFI.include?(number(68, 2, 'v'))

      # Data directory 4 of a PE32+ header holds certificates: at 0x90 of it, file offset and size.
      # @return [Boolean] whether it carries a signature; whose, only the firmware knows
      def signed? = number(0x90 + 4, 4, 'V').positive?

      # @return [Section, nil]
      def section(name) = sections.find { |one| one.name == name }

      # @return [Boolean] whether kernel, command line and ramdisk are inside (unified kernel image)
      def unified? = !section('.linux').nil?

      private

      def number(offset, length, code) = @head.byteslice(@optional + offset, length)&.unpack1(code).to_i

      # 40 bytes each: name, virtual size, address, size and offset in the file.
      def read_sections(offset, count)
        (0...count).filter_map do |index|
          bytes = @head.byteslice(offset + (index * 40), 40)
          next if bytes.nil? || bytes.bytesize < 40

          name, virtual, size, at = bytes.unpack('Z8Vx4VV')
          Section.new(name:, offset: at, size: [virtual, size].select(&:positive?).min || 0)
        end
      end
    end
  end
end
