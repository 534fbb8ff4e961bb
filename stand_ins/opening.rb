# frozen_string_literal: true

module StandIns
  # The contents of a drive, with what stands before them: its line, its faults
  # and its speed. about is its drive.json; faults say what is wrong with it:
  #
  #   {"unreadable": [[offset, length]], "unwritable": [[offset, length]], "flips": [[offset, length]],
  #    "true_capacity": 240000000000, "wears_out_after": 300000000, "hiccups": 50, "dies_after": 300000000,
  #    "reluctant": [[byte, tries, seconds]], "disconnects_after": 300000000, "bytes_per_second": 2000000, "dead": true}
  class Opening
    # @param bench [Bench]
    # @param drive [Evrel::Bench::Drive]
    # @param about [Hash, nil] nil where the drive was carried away since it was listed
    # @raise [Evrel::Unreadable]
    def initialize(bench, drive, about)
      raise Evrel::Unreadable.new('the drive is gone', where: drive.port ? "port #{drive.port}" : drive.handle) unless about

      @bench = bench
      @drive = drive
      @faults = about['faults'] || {}
    end

    # @return [Evrel::Disk]
    # @raise [Evrel::Refused] where the drive is locked to another docket
    # @raise [Evrel::Unreadable] where it does not answer
    def disk(writable:, docket:)
      check_lock(docket) if writable
      raise Evrel::Unreadable.new('the drive does not answer', where: "port #{@drive.port}") if @faults.key?('dead')

      disk = Disk::Line.new(bytes(writable && !@drive.read_only, docket), @bench, @drive.handle, @drive.port)
      disk = faulty(disk) if @faults.any?
      speed = [(@drive.port_speed if writable), @faults['bytes_per_second']].compact.min
      speed ? Disk::Paced.new(disk, speed) : disk
    end

    private

    def bytes(writable, docket)
      io = @bench.warden&.open(@drive, docket:) if writable
      Evrel::Disk::File.open(@drive.local_path, writable:, logical_sector: @drive.logical_sector, physical_sector: @drive.physical_sector,
                                                io:)
    end

    def check_lock(docket)
      holder = @bench.lock_on(@drive)
      return if holder.nil? || holder == docket

      raise Evrel::Refused.new("the drive in port #{@drive.port} is locked to #{holder}", where: "port #{@drive.port}")
    end

    def faulty(disk)
      ends = %w[dies_after disconnects_after].filter_map { |name| [name, @faults[name]] if @faults[name] }.min_by(&:last)
      kept = @faults.slice('unreadable', 'unwritable', 'flips', 'true_capacity', 'wears_out_after', 'hiccups', 'reluctant')
                    .transform_keys(&:to_sym)
      Disk::Faulty.new(disk, **kept, gives_out_after: ends&.last) { gives_out(ends.first) }
    end

    # Plugged in again, a drive that merely lost its line is well; a dead one is not.
    def gives_out(by)
      @bench.change_drive(@drive.handle) do |about|
        about['faults'].delete(by)
        about['faults']['dead'] = true if by == 'dies_after'
      end
      @bench.pull(@drive.port) if by == 'disconnects_after'
    rescue Evrel::NotFound
      nil # it was opened twice, and the other one has done so a moment earlier
    end
  end
end
