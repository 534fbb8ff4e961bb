# frozen_string_literal: true

require 'fileutils'
require 'json'

# Stand-ins for what lies on a real bench: drives in files, plugged into ports.
#
#   bench/ports.json                 {"1": "TF48-2209-7Q1F", "2": …}
#   bench/drives/SERIAL/drive.json   what the drive tells about itself
#   bench/drives/SERIAL/disk.raw     its contents, a sparse file of its capacity
#   bench/shelves/SERIAL/…           what is on the file system of a shelf drive
#   bench/computers.json             firmware and boot order
#   bench/shares/…, bench/web/…      a mounted share, and what an office's file server serves
module StandIns
  # A drive as its port shows it. All sizes in bytes.
  Drive = Struct.new(:port, :serial, :wwn, :maker, :model, :capacity, :bus, :rotating, :logical_sector,
                     :physical_sector, :health, :read_only, :in_use, :bytes_per_second, :path, keyword_init: true) do
    # @return [Evrel::Disk] at the speed of the drive and its port
    def open(writable: false)
      disk = Evrel::Disk::File.open(path, writable: writable && !read_only, logical_sector:, physical_sector:)
      return disk unless writable && bytes_per_second

      Evrel::Disk::Paced.new(disk, bytes_per_second)
    end

    def name = "#{maker} #{model}"
  end

  # The ports and what is plugged into them now.
  class Bench
    PORTS = 6 # that it has at least

    attr_reader :folder

    # @param folder [String]
    def initialize(folder)
      @folder = folder
    end

    # @return [Array<Drive>] by port
    def drives
      ports.sort_by { |port, _| port.to_i }.filter_map { |port, serial| drive(serial, port) }
    end

    # @return [Array<String>] every port, taken or not
    def port_names = (1..[PORTS, *ports.keys.map(&:to_i)].max).map(&:to_s)

    # @return [Array<Hash>] name, firmware and boot order of each computer
    def computers = read('computers.json') || []

    # @return [Float] changes when something was plugged or pulled
    def revision
      File.mtime(in_folder('ports.json')).to_f
    rescue Errno::ENOENT
      0.0
    end

    # @return [String] where the file system of a drive is mounted
    def mount_of(serial) = in_folder('shelves', serial)

    # Puts a new drive on the shelf of spare drives; it is plugged in by `plug`.
    # @param about [Hash] as in drive.json
    # @return [String] path of its contents
    def make(about)
      folder = in_folder('drives', about.fetch('serial'))
      FileUtils.mkdir_p(folder)
      File.write(File.join(folder, 'drive.json'), "#{JSON.pretty_generate(about)}\n")
      path = File.join(folder, 'disk.raw')
      Evrel::Disk::File.create(path, about.fetch('capacity')) unless File.exist?(path)
      path
    end

    def plug(serial, port) = change { |ports| ports[port] = serial }
    def pull(port) = change { |ports| ports.delete(port) }

    # @param list [Array<Hash>]
    def computers=(list)
      FileUtils.mkdir_p(@folder)
      File.write(in_folder('computers.json'), "#{JSON.pretty_generate(list)}\n")
    end

    private

    def ports = read('ports.json') || {}

    def drive(serial, port)
      about = read('drives', serial, 'drive.json') or return
      fields = about.transform_keys(&:to_sym).slice(*Drive.members)
      Drive.new(port:, path: in_folder('drives', serial, 'disk.raw'), **fields)
    end

    def change
      FileUtils.mkdir_p(@folder)
      changed = ports
      yield changed
      # In one step, so that nobody reads half a file.
      File.write(in_folder('ports.json.new'), "#{JSON.pretty_generate(changed)}\n")
      File.rename(in_folder('ports.json.new'), in_folder('ports.json'))
    end

    def read(*names)
      JSON.parse(File.read(in_folder(*names)))
    rescue Errno::ENOENT
      nil
    end

    def in_folder(*names) = File.join(@folder, *names)
  end
end
