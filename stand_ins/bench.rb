# frozen_string_literal: true

require 'fileutils'
require 'json'
require_relative 'disk'
require_relative 'mount'
require_relative 'opening'
require_relative 'settings'
require_relative 'smart'

# Stand-ins for what lies on a real bench: drives in files, plugged into ports.
#
#   bench/ports.json                 {"1": "TF48-2209-7Q1F", "2": …}; a name that a drive's folder has
#   bench/moves.jsonl                what was pulled, plugged and changed, a line each
#   bench/drives/NAME/drive.json     what the drive tells about itself, and its faults
#   bench/drives/NAME/smart.json     its SMART data, in smartctl's form
#   bench/drives/NAME/disk.raw       its contents, a sparse file of its capacity
#   bench/drives/NAME/locked         the docket that it is locked to
#   bench/shelves/NAME/…             what is on the file system of a shelf drive
#   bench/computers.json             firmware, boot order, and whether they are on
#   bench/shares/…, bench/web/…      a mounted share, and what an office's file server serves
#
# The name of a drive's folder is its serial, or anything where it has none.
module StandIns
  # The ports and what is plugged into them now.
  class Bench
    include Evrel::Bench

    PORTS = 6 # that it has at least, and this many behind the last that is taken:
    SPARE_PORTS = 2

    OFFERS = %i[handling computers].freeze
    FIELDS = %i[serial wwn maker model capacity bus rotating removable logical_sector physical_sector read_only running in_use].freeze

    attr_reader :folder, :name, :warden

    # @param folder [String]
    # @param name [String]
    # @param warden [Evrel::Warden::Client, nil] who opens drives for writing; nil where this process does
    def initialize(folder, name: 'bench-1', warden: nil)
      @folder = folder
      @name = name
      @warden = warden
    end

    def offers = OFFERS

    # @return [Array<Evrel::Bench::Drive>] by port
    def drives
      ports.sort_by { |port, _| port.to_i }.filter_map { |port, name| drive(name, port) }
    end

    # @return [Array<Evrel::Bench::Drive>] those that lie beside the bench, with port nil
    def spare
      Dir.children(in_folder('drives')).sort.filter_map { |name| drive(name, nil) unless ports.value?(name) }
    rescue Errno::ENOENT
      []
    end

    # @return [Array<String>] every port, taken or not
    def port_names = (1..[PORTS, ports.keys.map(&:to_i).max.to_i + SPARE_PORTS].max).map(&:to_s)

    # @return [Array<Hash>] name, firmware, boot order and whether it is on, of each computer
    def computers = read('computers.json') || []

    # @return [String] changes whenever anything on the bench has
    def revision = "#{stamp('ports.json')}-#{stamp('moves.jsonl')}"

    # @param since [Integer] number of a move
    # @return [Array<Evrel::Bench::Move>] those after it, in order
    def moves(since: 0)
      File.foreach(in_folder('moves.jsonl')).with_index(1).filter_map do |line, number|
        next if number <= since

        told = JSON.parse(line)
        Evrel::Bench::Move.new(number:, at: Time.iso8601(told['at']), what: told['what'].to_sym, port: told['port'], name: told['name'])
      end
    rescue Errno::ENOENT
      []
    end

    # @return [String] where the file system of a drive is mounted
    def mount_point(drive) = in_folder('shelves', drive.handle)

    # @return [Mount]
    def mount(drive, path) = Mount.new(path, drive, others: about(drive.handle).to_h.fetch('other_bytes', 0))

    # At the speed of the drive and its port, and with its faults.
    # @return [Evrel::Disk]
    def open(drive, writable: false, docket: nil) = Opening.new(self, drive, about(drive.handle)).disk(writable:, docket:)

    # @return [Hash, nil]
    def smart(drive) = read('drives', drive.handle, 'smart.json')

    # Puts a new drive on the shelf of spare drives; it is plugged in by `plug`.
    # @param about [Hash] as in drive.json
    # @param smart [Hash, nil] as in smart.json
    # @param name [String] of its folder
    # @return [String] path of its contents
    def make(about, smart: nil, name: about.fetch('serial'))
      FileUtils.mkdir_p(in_folder('drives', name))
      write(about, 'drives', name, 'drive.json')
      write(smart, 'drives', name, 'smart.json') if smart
      path = in_folder('drives', name, 'disk.raw')
      Evrel::Disk::File.create(path, about.fetch('capacity')) unless File.exist?(path)
      path
    end

    # @raise [Evrel::Refused] where something else is in the port
    # @raise [Evrel::NotFound] where there is no such drive
    def plug(name, port)
      raise Evrel::Refused.new("there is no port #{port}", where: 'port') unless port.match?(/\A[1-9]\d?\z/)
      raise Evrel::NotFound.new("there is no drive #{name}", where: name) unless about(name)

      change do |ports|
        raise Evrel::Refused.new("port #{port} is taken", where: "port #{port}", hint: 'pull what is in it first') if ports[port] &&
                                                                                                                      ports[port] != name

        before = ports.key(name)
        ports.delete(before)
        ports[port] = name
        note('pulled', before, name) if before
        note('plugged', port, name)
      end
    end

    # @raise [Evrel::NotFound] where nothing is in the port
    def pull(port)
      change do |ports|
        name = ports.delete(port) or raise Evrel::NotFound.new("nothing is in port #{port}", where: "port #{port}")
        note('pulled', port, name)
      end
    end

    # Two drives change places.
    def swap(one, other)
      change do |ports|
        names = [one, other].map { |port| ports.delete(port) or raise Evrel::NotFound.new("nothing is in port #{port}", where: port) }
        [one, other].zip(names) { |port, name| note('pulled', port, name) }
        [one, other].zip(names.reverse) do |port, name|
          ports[port] = name
          note('plugged', port, name)
        end
      end
    end

    # @yieldparam about [Hash] drive.json, to be changed
    def change_drive(name)
      exclusively do
        about = about(name) or raise Evrel::NotFound.new("there is no drive #{name}", where: name)
        yield about
        write(about, 'drives', name, 'drive.json')
        note('changed', ports.key(name), name)
      end
    end

    # @param name [String] of a drive
    # @param given [Hash] see Settings
    # @raise [Evrel::Refused]
    def handle_drive(name, given)
      wanted = Settings.checked(given)
      change_drive(name) { |about| about.merge!(wanted) }
    end

    # @return [Hash] how a drive is set, for hands: read_only, in_use, faults
    def switches(drive) = { faults: about(drive.handle).to_h['faults'] || {} }

    # @param name [String] of a computer
    # @param given [Hash] "on", "boot_order"
    # @raise [Evrel::Refused, Evrel::NotFound]
    def handle_computer(name, given)
      wanted = Settings.computer(given)
      change_computer(name) { |one| one.merge!(wanted) }
    end

    # @yieldparam computer [Hash] as in computers.json, to be changed
    def change_computer(name)
      exclusively do
        list = computers
        yield list.find { |one| one['name'] == name } || raise(Evrel::NotFound.new("there is no computer #{name}", where: name))
        write(list, 'computers.json')
        note('changed', nil, nil)
      end
    end

    # @return [String] where the contents of a drive lie
    def path_of(name) = in_folder('drives', name, 'disk.raw')

    # @return [String, nil]
    def port_of(name) = ports.key(name)

    # @param list [Array<Hash>]
    def computers=(list)
      exclusively do
        write(list, 'computers.json')
        note('changed', nil, nil)
      end
    end

    # @return [String, nil] number of the docket that the drive is locked to
    def lock_on(drive)
      File.read(in_folder('drives', drive.handle, 'locked')).strip
    rescue Errno::ENOENT
      nil
    end

    # @param docket [String, nil] nil releases it
    def lock(drive, docket)
      path = in_folder('drives', drive.handle, 'locked')
      return FileUtils.rm_f(path) unless docket

      File.write(path, "#{docket}\n") if File.directory?(File.dirname(path))
    end

    private

    def ports = read('ports.json') || {}

    def drive(name, port)
      about = about(name) or return
      Evrel::Bench::Drive.new(bench: self, handle: name, port:, local_path: path_of(name), smart: read('drives', name, 'smart.json'),
                              stamp: [stamp('drives', name, 'disk.raw'), about['faults']].inspect, port_speed: about['bytes_per_second'],
                              **about.transform_keys(&:to_sym).slice(*FIELDS))
    end

    def about(name) = read('drives', name, 'drive.json')

    def change
      exclusively do
        changed = ports
        yield changed
        write(changed, 'ports.json')
      end
    end

    # Two who move drives at the same moment do so one after the other.
    def exclusively
      FileUtils.mkdir_p(@folder)
      File.open(in_folder('.lock'), File::RDWR | File::CREAT) do |io|
        io.flock(File::LOCK_EX)
        yield
      end
    end

    def note(what, port, name)
      File.open(in_folder('moves.jsonl'), 'a') { |io| io.puts(JSON.generate(at: Time.now.iso8601(3), what:, port:, name:)) }
    end

    def stamp(*names)
      stat = File.stat(in_folder(*names))
      "#{stat.mtime.to_r}/#{stat.size}/#{stat.blocks}"
    rescue Errno::ENOENT
      '0'
    end

    # In one step, so that nobody reads half a file.
    def write(value, *names)
      path = in_folder(*names)
      File.write("#{path}.new", "#{JSON.pretty_generate(value)}\n")
      File.rename("#{path}.new", path)
    end

    def read(*names)
      JSON.parse(File.read(in_folder(*names)))
    rescue Errno::ENOENT
      nil
    end

    def in_folder(*names) = File.join(@folder, *names)
  end
end
