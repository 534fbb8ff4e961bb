# frozen_string_literal: true

module Evrel
  module Startup
    # By which kind of firmware a disk is made to be started, where nothing is
    # known of its computer.
    module FirmwareKind
      # Types of an MBR in which a UEFI firmware may find its loader: FAT of all sizes.
      READ_BY_UEFI = %w[0x01 0x04 0x06 0x0b 0x0c 0x0e 0xef].freeze

      module_function

      # @param disk [Disk]
      # @return [(String, String)] "uefi" or "bios", and what says so
      def of(disk)
        table = Table.read(disk)
        code = disk.read(0, BiosPath::CODE)
        return ['bios', 'the first sector holds GRUB, and no part is a start-up part'] if GrubCore.boots?(code) && startup(table).nil?
        return ['uefi', "partition #{startup(table).number} is a start-up part"] if startup(table)
        return ['bios', "partition #{for_core(table).number} is one for GRUB's core"] if for_core(table)
        return ['bios', 'the first sector holds code, and a partition is active'] if active?(table) && !code.delete("\0").empty?

        return ['bios', 'a partition is active, and no UEFI firmware could read any'] if active?(table) && unread?(table)

        ['uefi', 'nothing on the disk says how it is started: this is the usual way']
      rescue BadPlace
        ['uefi', 'its table cannot be read']
      end

      def startup(table) = table&.partitions&.find { |part| [UefiPath::ESP, '0xef'].include?(part.type) }
      def for_core(table) = table&.partitions&.find { |part| part.type == Table::Types::BIOS_BOOT }
      def active?(table) = table&.kind == 'mbr' && table.partitions.any?(&:active?)
      def unread?(table) = table.partitions.none? { |part| READ_BY_UEFI.include?(part.type) }
      private_class_method :startup, :for_core, :active?, :unread?
    end
  end
end
