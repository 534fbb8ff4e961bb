# frozen_string_literal: true

module Evrel
  module Volume
    # A partition that belongs to a dynamic disk: what lies in it is described
    # by a database of its own, elsewhere on the disk, so nothing in it is
    # believed to be a file system. (libldm, struct _privhead.)
    module DynamicDisk
      DATABASE = '5808c8aa-7e8f-42e0-85d2-e1e90434cfb3'
      TYPES = ['0x42', DATABASE, 'af9b60a0-1431-4f62-bc68-3311714a69ad'].freeze
      HEADER_SECTOR = 6 # with an MBR; with a GPT the last sector of the database's partition
      MAGIC = 'PRIVHEAD'

      module_function

      # @param window [Disk] the partition
      # @param disk [Disk] the whole disk
      # @param table [Table::Gpt, Table::Mbr]
      # @return [Opaque]
      # @raise [Unreadable]
      def of(window, disk, table)
        uuid, label = header(disk, table).unpack('@48Z64@240Z32').map { |text| text.to_s.dup.force_encoding('UTF-8').scrub }
        Opaque.new(window, kind: 'dynamic-disk', size: window.size, block_size: window.logical_sector,
                           uuid: (uuid.downcase if Guid::FORM.match?(uuid)), label:)
      end

      # Identity of the disk at 48, name of its group at 240.
      def header(disk, table)
        database = table.partitions.find { |part| part.type == DATABASE }
        at = database ? database.end - table.sector : HEADER_SECTOR * table.sector
        bytes = disk.read(at, 512)
        bytes.start_with?(MAGIC) ? bytes : "\0".b * 512
      end
      private_class_method :header
    end
  end
end
