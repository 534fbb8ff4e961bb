# frozen_string_literal: true

module Evrel
  module Table
    # One partition: numbers are LBAs of the table's sector size, both ends
    # included; number is its place in the table, from 1 (logical ones from 5).
    # In an MBR, type is "0x83" and the like, guid is what Linux calls the
    # PARTUUID, and attributes holds the status byte.
    Partition = Struct.new(:number, :type, :guid, :first_lba, :last_lba, :name, :attributes, :sector,
                           keyword_init: true) do
      # @return [Integer] first byte on the disk
      def start = first_lba * sector

      # @return [Integer] bytes
      def size = (last_lba - first_lba + 1) * sector

      # @return [Integer] the first byte behind it
      def end = start + size

      # An MBR does not tell a system from data: the active partition is what is started.
      def role = active? && Types[type].role == :data ? :system : Types[type].role

      def type_name = Types[type].name
      def active? = type.start_with?('0x') && attributes.anybits?(Mbr::ACTIVE)

      # @param disk [Disk] the disk that carries the table
      # @return [Disk::Window]
      def window(disk) = Disk::Window.new(disk, start, size)
    end
  end
end
