# frozen_string_literal: true

module Evrel
  module Startup
    # The store of an NTFS system's start-up program: objects with elements, in
    # a registry hive. Read for what is started, and from which partition.
    class Store
      # Elements, by their numbers in hexadecimal.
      DEFAULT = '23000003' # of the manager: the object that is started
      MANAGER = '{9dea862c-5cdd-4e70-acc1-f32b344d4795}'
      DEVICE = '11000001'  # where the program of an object lies
      SYSTEM = '21000001'  # where the system that it starts lies
      PATH = '12000002'    # of the program
      TITLE = '12000004'
      # A device: kind (6: a partition) at byte 16; then for a GPT disk the partition's GUID at 32, the kind of table at
      # 52 (0: GPT, 1: MBR) and the disk's GUID at 56; for an MBR the partition's byte offset, and the disk's signature.
      PARTITION = 6
      # Devices that say nothing of a partition: where the program itself was started from.
      STARTED_FROM = 5

      Device = Struct.new(:kind, :guid, :offset, :disk, keyword_init: true) do
        # @param table [Table::Gpt, Table::Mbr]
        # @return [Table::Partition, nil]
        def part(table)
          return table.partitions.find { |one| one.guid.casecmp?(guid) } if guid

          table.partitions.find { |one| one.start == offset } if offset && table.kind == 'mbr' && table.guid == disk
        end

        def to_s = guid ? "partition #{guid}" : "the partition at byte #{offset} of disk #{disk}"
      end
      # title, path of the program, device it lies on, device of the system; each may be nil
      Loaded = Struct.new(:title, :path, :device, :system, keyword_init: true)

      # @param bytes [String] the whole file
      # @raise [Damaged]
      def initialize(bytes)
        @hive = Hive.new(bytes)
      end

      # @return [Loaded, nil] what is started when nobody touches a key
      # @raise [Damaged]
      def default
        manager = elements(MANAGER) or return
        id = text(manager, DEFAULT) or return
        elements = elements(id) or return
        Loaded.new(title: text(elements, TITLE), path: text(elements, PATH)&.tr('\\', '/'), device: device(elements, DEVICE),
                   system: device(elements, SYSTEM))
      end

      private

      def elements(id) = @hive.find('Objects', id, 'Elements')
      def element(elements, number) = @hive.keys(elements).find { |key| key.name.casecmp?(number) }
      def text(elements, number) = element(elements, number)&.then { |key| @hive.text(key, 'Element') }

      def device(elements, number)
        bytes = element(elements, number)&.then { |key| @hive.value(key, 'Element') } or return
        kind = bytes.byteslice(16, 4).to_s.unpack1('V')
        return Device.new(kind:) unless kind == PARTITION && bytes.bytesize >= 72

        return Device.new(kind:, guid: Guid.from_bytes(bytes.byteslice(32, 16))) if bytes.byteslice(52, 4).unpack1('V').zero?

        Device.new(kind:, offset: bytes.byteslice(32, 8).unpack1('Q<'), disk: bytes.byteslice(56, 4).unpack1('V').to_s(16).rjust(8, '0'))
      end
    end
  end
end
