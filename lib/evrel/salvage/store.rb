# frozen_string_literal: true

require 'fileutils'

module Evrel
  module Salvage
    # What was read of a disk so far, in a folder: "disk.raw" is the disk as a
    # sparse file, "map.json" says which of its ranges are true.
    class Store
      DISK = 'disk.raw'
      MAP = 'map.json'

      attr_reader :map, :disk

      # Begins, or goes on.
      # @param folder [String]
      # @param size [Integer] bytes of the disk
      # @param sector [Integer] bytes
      # @param writable [Boolean] whether something is added to it: by one at a time
      # @raise [Refused] where what lies there is of another disk
      # @raise [Damaged]
      def self.open(folder, size, sector, writable: true)
        FileUtils.mkdir_p(folder)
        path = ::File.join(folder, DISK)
        Disk::File.create(path, size) unless ::File.exist?(path)
        known = ::File.join(folder, MAP)
        map = ::File.exist?(known) ? Map.parse(::File.read(known)) : Map.new(size, sector)
        return new(folder, map, writable) if map.size == size && map.sector == sector && ::File.size(path) == size

        raise Refused.new('what was salvaged there is of another disk', where: folder)
      end

      def initialize(folder, map, writable)
        @folder = folder
        @map = map
        @disk = Disk::File.open(::File.join(folder, DISK), writable:, logical_sector: map.sector)
      end

      # @return [String] path of the map as it was noted last
      def map_path = ::File.join(@folder, MAP)

      # Takes bytes that the disk has given.
      def take(offset, bytes)
        # Zeros are there already.
        disk.write(offset, bytes) unless bytes.count("\0") == bytes.bytesize
        map.set(offset, bytes.bytesize, :read)
      end

      # From now on this is what a power cut leaves behind.
      def note
        disk.flush
        ::File.write("#{map_path}.new", map.to_json)
        ::File.open("#{map_path}.new", &:fsync)
        ::File.rename("#{map_path}.new", map_path)
      end

      def close = disk.close
    end
  end
end
