# frozen_string_literal: true

module StandIns
  # A drive as its port shows it. All sizes in bytes; smart is what smartctl
  # would print, parsed; handle is the name of its folder, which nothing is
  # decided by; faults says what is wrong with it:
  #
  #   {"unreadable": [[offset, length]], "unwritable": [[offset, length]], "flips": [[offset, length]],
  #    "true_capacity": 240000000000, "wears_out_after": 300000000, "hiccups": 50, "dies_after": 300000000,
  #    "disconnects_after": 300000000, "bytes_per_second": 2000000, "dead": true}
  Drive = Struct.new(:port, :serial, :wwn, :maker, :model, :capacity, :bus, :rotating, :removable, :logical_sector,
                     :physical_sector, :smart, :read_only, :running, :in_use, :bytes_per_second, :faults, :path, :handle, :bench,
                     keyword_init: true) do
    # In errors and logs it shows no serial.
    def inspect = "#<#{self.class.name} port #{port.inspect}>"
    alias_method :to_s, :inspect

    # @param writable [Boolean]
    # @param docket [String, nil] for which it is written to
    # @return [Evrel::Disk] at the speed of the drive and its port, and with its faults
    # @raise [Evrel::Refused] where the drive is locked to another docket
    def open(writable: false, docket: nil)
      check_lock(docket) if writable
      raise Evrel::Unreadable.new('the drive does not answer', where: "port #{port}") if faults&.key?('dead')

      bytes = Evrel::Disk::File.open(path, writable: writable && !read_only, logical_sector:, physical_sector:)
      disk = Disk::Line.new(bytes, bench, handle, port)
      disk = faulty(disk) if faults&.any?
      slow = faults&.dig('bytes_per_second')
      speed = [(bytes_per_second if writable), slow].compact.min
      speed ? Disk::Paced.new(disk, speed) : disk
    end

    # @param path [String] where its file system is mounted
    # @return [Evrel::Shelf::Folder]
    def mount(path) = Mount.new(path, self)

    def name = "#{maker} #{model}"
    def health = Evrel::Health.of(smart)
    def key = Evrel::Identity.key(serial:, wwn:, model: name, capacity:)

    private

    def check_lock(docket)
      holder = bench.lock_on(handle)
      return if holder.nil? || holder == docket

      raise Evrel::Refused.new("the drive in port #{port} is locked to #{holder}", where: "port #{port}")
    end

    def faulty(disk)
      ends = %w[dies_after disconnects_after].filter_map { |name| [name, faults[name]] if faults[name] }.min_by(&:last)
      kept = faults.slice('unreadable', 'unwritable', 'flips', 'true_capacity', 'wears_out_after', 'hiccups').transform_keys(&:to_sym)
      Disk::Faulty.new(disk, **kept, gives_out_after: ends&.last) do
        # Plugged in again, a drive that merely lost its line is well; a dead one is not.
        bench.change_drive(handle) do |about|
          about['faults'].delete(ends.first)
          about['faults']['dead'] = true if ends.first == 'dies_after'
        end
        bench.pull(port) if ends.first == 'disconnects_after'
      end
    end
  end
end
