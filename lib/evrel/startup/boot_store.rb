# frozen_string_literal: true

module Evrel
  module Startup
    # The store of an NTFS system's start-up program: objects with elements, in a
    # registry hive. Read for what is started, and for the partitions that it names.
    class BootStore
      # Elements, by their numbers in hexadecimal.
      DEFAULT = '23000003' # of the manager: the object that is started
      MANAGER = '{9dea862c-5cdd-4e70-acc1-f32b344d4795}'
      DEVICE = '11000001'  # where the program of an object lies
      SYSTEM = '21000001'  # where the system that it starts lies
      PATH = '12000002'    # of the program
      TITLE = '12000004'
      DEVICES = /\A\h1\h{6}\z/ # the second digit is the form of an element: 1 is a device

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

      # @return [Array<Device>] every one that names a partition
      # @raise [Damaged]
      def devices
        objects = @hive.find('Objects') or return []
        @hive.keys(objects).filter_map { |object| @hive.keys(object).find { |key| key.name.casecmp?('Elements') } }
             .flat_map { |elements| @hive.keys(elements).select { |key| key.name.match?(DEVICES) } }
             .filter_map { |key| read(key) }.select(&:partition?)
      end

      private

      def elements(id) = @hive.find('Objects', id, 'Elements')
      def element(elements, number) = @hive.keys(elements).find { |key| key.name.casecmp?(number) }
      def text(elements, number) = element(elements, number)&.then { |key| @hive.text(key, 'Element') }
      def device(elements, number) = element(elements, number)&.then { |key| read(key) }

      def read(key)
        bytes, at = @hive.value_at(key, 'Element')
        bytes && Device.new(bytes, at)
      end
    end
  end
end
