# frozen_string_literal: true

require 'fileutils'
require 'tmpdir'
require_relative 'password'
require_relative 'starting_disk'
require_relative 'office_files'
require_relative 'bench_drives'
require_relative 'fleet'
require_relative 'fleet_records'
require_relative 'docket_states'
require_relative 'kept_bench'
require_relative 'side_by_side'

module Demo
  # An invented island ferry company: its technicians, computers, drives and
  # images. Everything on the drives is built here; the images are taken by
  # Evrel itself.
  class Scenario
    DAY = 86_400 # seconds
    DRIVES = {
      'TF48-2209-7Q4F' => { port: '3', maker: 'Tarn', model: 'Flux SSD', capacity: 480_103_981_056, bus: 'SATA', rotating: false,
                            smart: StandIns::Smart.ata(hours: 41, temperature: 31, wear: 2) },
      'TF48-2209-7Q1F' => { port: '1', maker: 'Tarn', model: 'Flux SSD', capacity: 480_103_981_056, bus: 'SATA', rotating: false,
                            smart: StandIns::Smart.ata(hours: 3870, temperature: 34, wear: 11) },
      'OS1T-88C02M' => { port: '2', maker: 'Orrin', model: 'Slate HDD', capacity: 1_000_204_886_016, bus: 'USB', rotating: true,
                         other_bytes: 612 * (10**9),
                         smart: StandIns::Smart.ata(hours: 4120, temperature: 33) },
      'VN24-0071K9XD' => { port: '4', maker: 'Velm', model: 'NV2 SSD', capacity: 240_057_409_536, bus: 'SATA', rotating: false,
                           smart: StandIns::Smart.ata(hours: 30_416, temperature: 39, wear: 97, reallocated: 38, pending: 212,
                                                      errors: 212) }
    }.freeze
    IDS = { disk: '8f0c6d52-3a1e-4b57-9c1d-5e2a7b40c3d1', esp: '1b7e0d94-52c8-4f6a-8d33-0c9fa6e1b274',
            system: '8c1f24a7-6e0b-4d9c-b5f2-7a3d18e6c905', recovery: '5d92b3e8-17f4-4a6d-9e08-c4b61f7a2d53',
            system_uuid: '3e7a9c15-d284-4b0f-a6e1-92f5d80b7c46', recovery_uuid: 'b04d6f21-8c97-4e35-91da-6f2e7c58a310' }.freeze
    HOLM = 'OS1T-88C02M'
    HOLM_UUID = '0d5c7e21-4b98-4f63-a1d0-7e92b6c3f854'
    # A shelf drive that lies in a cupboard today.
    ARCHIVE = 'OS2T-41F7RB'
    ARCHIVE_PORT = '16'
    ARCHIVE_UUID = '9a3f6b0c-d287-4e15-bc49-05e7a8f1d362'
    # What the drives of this bench do behind their port: enough to see a write at work.
    BYTES_PER_SECOND = 60 * (10**6)

    # @param now [Time] the whole story is told backwards from here
    # @param small [Boolean] fewer and smaller files, for tests
    def initialize(now: Time.now, small: false)
      @now = now
      @small = small
      @bench = Benches[Config.bench]
      @start_files = File.join(Config::ROOT, 'var', 'cache', 'start-files')
    end

    def build
      people
      computers
      @now = kept.place(@now) { things }
      records
      return if @small

      fleet = FleetRecords.new(trouble, @bench)
      fleet.build
      states = DocketStates.new(@bench, make: method(:drive))
      states.open
      # What is written at the speed of a port leaves the processors to what is checked.
      Demo.beside(-> { fleet.checks }, *states.writes)
      fleet.archived
      states.close
    end

    private

    def kept = @small ? KeptBench.new('small', holds: 2 * 3600) : KeptBench.new('whole', holds: 7 * DAY)

    # The bench and what lies on it.
    def things
      @paths = DRIVES.to_h { |serial, about| [serial, drive(serial, about)] }
      old_stock
      camera_recordings
      shelf_drive
      office
      @bench.computers = [{ name: 'TKT-03', firmware: 'uefi', boot_order: ['USB', 'port 4', 'network'], on: false, hardware: OfficeFiles::HARDWARE,
                            entries: [{ name: 'Ticket office', path: '\\EFI\\BOOT\\BOOTX64.EFI', partition: IDS[:esp] }] }]
      return if @small

      BenchDrives.new(@now, make: method(:drive), start_files: @start_files,
                            fill: lambda { |serial, label, files, at|
                              one_volume(serial, label, files, at:, path: @bench.path_of(serial))
                            }, fail: ->(serial, faults) { @bench.change_drive(serial) { |about| about['faults'] = faults } }).build
      fleet
    end

    def records
      AttachedDrives.remember
      owners
      @shelf = Shelf.create!(name: 'Holm', kind: 'drive', path: holm, drive: Drive.find_by!(serial: HOLM),
                             volume_uuid: HOLM_UUID)
      locked_image unless @small
      LookThrough.new(@shelf).run
      dockets
    end

    # What the quay's camera has seen leaves the house: the password of the demo's people opens it.
    def locked_image
      serial = 'TF48-2209-7Q1F'
      about = { 'computer' => { 'name' => 'CAM-01', 'system_identity' => '4C1E77A0-CAM01' }, 'note' => 'For the harbour office',
                'drive' => { 'serial' => serial } }
      Evrel::Disk::File.open(@bench.path_of(serial)) do |disk|
        Evrel::Image::Capture.new(disk, File.join(holm, 'cam01-for-the-harbour'), about:, taken_at: trouble - (3 * DAY),
                                                                                  passphrase: Demo.password).run
      end
    end

    def fleet
      archive = drive(ARCHIVE, { port: ARCHIVE_PORT, maker: 'Orrin', model: 'Slate HDD', capacity: 2_000_398_934_016, bus: 'USB',
                                 rotating: true, other_bytes: 1_921 * (10**9), # nearly full
                                 smart: StandIns::Smart.ata(hours: 9310, temperature: 35) })
      one_volume(ARCHIVE, 'Salt bay', { 'READ-ME.txt' => ["Older images\n", @now - (500 * DAY)] },
                 at: @now - (90 * DAY), uuid: ARCHIVE_UUID, path: archive)
      places = { holm:, office: FleetRecords.office(@bench), archive: mounted(ARCHIVE), web: FleetRecords.web(@bench) }
      places.each_value { |folder| FileUtils.mkdir_p(folder) }
      Fleet.new(trouble, start_files: @start_files, places:).build
    end

    def holm = mounted(HOLM)
    def mounted(serial) = File.join(@bench.folder, 'shelves', serial)

    # Yesterday afternoon the drive failed.
    def trouble = @trouble ||= Time.new(@now.year, @now.month, @now.day, 14, 20) - DAY

    def people
      @ina = Technician.create!(sign_in: 'ina', name: 'Ina Hauge', initials: 'IH', password: Demo.password, role: 'lead')
      Technician.create!(sign_in: 'kaja', name: 'Kaja Moe', initials: 'KM', password: Demo.password)
    end

    def computers
      @office = Computer.create!(name: 'TKT-03', place: 'Holm quay ticket office', model: 'Brisk Desk 5', firmware: 'uefi',
                                 system_identity: '4C1E77A0-TKT03')
      @camera = Computer.create!(name: 'CAM-01', place: 'Holm quay cameras', model: 'Brisk Box 2', firmware: 'uefi',
                                 system_identity: '4C1E77A0-CAM01')
      @pier = Computer.create!(name: 'PIER-02', place: 'East pier departures board', model: 'Lume Panel', firmware: 'uefi',
                               system_identity: '4C1E77A0-PIER2')
    end

    def drive(serial, about)
      fields = about.except(:port, :smart, :speed).transform_keys(&:to_s)
      path = @bench.make({ 'serial' => serial, 'wwn' => "5000c5#{serial.sum.to_s(16).rjust(10, '0')}", 'rotating' => false,
                           'removable' => false, 'logical_sector' => 512, 'physical_sector' => 4096, 'read_only' => false,
                           'bytes_per_second' => about[:speed] || BYTES_PER_SECOND, **fields }, smart: about[:smart])
      @bench.plug(serial, about[:port])
      path
    end

    # The replacement is not as blank as it looks.
    def old_stock
      one_volume('TF48-2209-7Q4F', 'old-stock', OfficeFiles.old_stock(@now, @small ? 20 : 1204), at: @now - (330 * DAY))
    end

    def camera_recordings
      one_volume('TF48-2209-7Q1F', 'quay-camera', OfficeFiles.recordings(@now, @small ? 4 : 60), at: @now - 240)
    end

    def one_volume(serial, label, files, at:, uuid: nil, path: @paths[serial])
      Dir.mktmpdir('evrel-demo') do |root|
        Demo.write_files(root, files)
        Demo.run('sfdisk', '-q', path, input: "label: gpt\nstart=2048, type=L, name=\"#{label}\"\n")
        Demo.make_ext4(path, root, start: 1024**2, bytes: File.size(path) - (3 * (1024**2)), label:, uuid:, at:)
      end
    end

    # The shelf drive's file system, and the folder where it is mounted.
    def shelf_drive
      one_volume(HOLM, 'Holm', { 'READ-ME.txt' => ["Images of the Holm quay computers\n", @now - (400 * DAY)] },
                 at: trouble - DAY + 16_000, uuid: HOLM_UUID)
      FileUtils.mkdir_p(holm)
    end

    # Two images of the ticket office, taken a month and a day before the
    # trouble, and the failed drive itself with the work since then.
    def office
      Demo.apart(lambda {
        image('tkt03-2', trouble - (31 * DAY) + 15_000, 'After the new printer')
        office_disk(@paths['VN24-0071K9XD'], trouble - 540, started: true)
      }, -> { image('2-full', trouble - DAY + 15_000, 'Before the season change') })
    end

    def image(name, time, note)
      Dir.mktmpdir('evrel-demo') do |work|
        path = File.join(work, 'disk.raw')
        Evrel::Disk::File.create(path, DRIVES['VN24-0071K9XD'][:capacity])
        office_disk(path, time)
        Evrel::Disk::File.open(path) do |disk|
          Evrel::Image::Capture.new(disk, File.join(holm, name), about: about(note), taken_at: time).run
        end
      end
    end

    def about(note)
      drive = DRIVES['VN24-0071K9XD']
      { 'computer' => { 'name' => 'TKT-03', 'model' => 'Brisk Desk 5', 'firmware' => 'uefi',
                        'system_identity' => '4C1E77A0-TKT03' },
        'drive' => { 'maker' => drive[:maker], 'model' => drive[:model], 'serial' => 'VN24-0071K9XD',
                     'capacity_bytes' => drive[:capacity], 'bus' => drive[:bus] },
        'note' => note }
    end

    def office_disk(path, time, started: false)
      StartingDisk.new(path, host: 'TKT-03', title: 'Ticket office', start_files: @start_files, ids: IDS,
                             files: OfficeFiles.ticket_office(time, small: @small), at: time, started:).build
    end

    def owners
      Drive.find_by!(serial: 'VN24-0071K9XD').update!(computer: @office)
      Drive.find_by!(serial: 'TF48-2209-7Q1F').update!(computer: @camera)
    end

    def dockets
      first = Docket.create!(computer: @office, cause: 'drive_failed', trouble_since: trouble, opened_by: @ina,
                             note: 'Clicks and does not start. The replacement lies beside it.')
      Event.add('opened', 'Docket opened for TKT-03', docket: first, technician: @ina)
      second = Docket.create!(computer: @pier, cause: 'slow', opened_by: @ina,
                              note: 'Takes ten minutes to show the board. Move it to a new drive while it can be read.')
      Event.add('opened', 'Docket opened for PIER-02', docket: second, technician: @ina)
    end
  end
end
