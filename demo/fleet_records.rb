# frozen_string_literal: true

require_relative '../stand_ins/file_server'

module Demo
  # Records of the rest of the company: computers, shelves, what earlier checks
  # have found, and dockets of other troubles.
  class FleetRecords
    DAY = 86_400
    # Left unchecked: what a technician has still to do.
    UNCHECKED = ['2-full', 'tkt03-2', 'full_backup_new(2)', 'harbour-office.vhdx', 'ofc_disk.img.gz', 'kiosk-spring.qcow2',
                 'pier.001'].freeze
    # Kiosks that get their cards this spring, and where they stand.
    KIOSKS = { 'KSK-02' => 'East pier', 'KSK-03' => 'Upper landing', 'KSK-04' => 'Harbour office', 'KSK-05' => 'Salt bay',
               'KSK-06' => 'Far station', 'KSK-07' => 'Lighthouse quay', 'KSK-08' => 'North slip', 'KSK-09' => 'Car deck' }.freeze
    WEB_USER = 'quay'
    WEB_PASSWORD = 'salt-and-rope'

    def self.office(bench) = File.join(bench.folder, 'shares', 'office')
    def self.web(bench) = File.join(bench.folder, 'web')

    # @param trouble [Time]
    # @param bench [StandIns::Bench]
    def initialize(trouble, bench)
      @trouble = trouble
      @bench = bench
      @ina = Technician.find_by!(sign_in: 'ina')
    end

    def build
      computers
      shelves
      drives
      dockets
    end

    # Checked some days ago, for real.
    def checks
      Image.where.not(state: 'incomplete').find_each do |image|
        next if UNCHECKED.include?(image.path)

        CheckJob.new(image.id).perform unless image.reload.state == 'whole'
        checked = [@trouble - (3 * DAY), image.taken_at + 3600].max
        checked = @trouble - (230 * DAY) if image.path.start_with?('tkt04')
        image.reload.update!(checked_at: checked) if image.checked_at
      end
    end

    # Then the cupboard drive goes back into the cupboard.
    def archived
      @bench.pull(Scenario::ARCHIVE_PORT)
      @archive.update!(reachable: false, reachable_changed_at: @trouble - (84 * DAY))
      @archive.drive.update!(last_port: '2', last_seen_at: @trouble - (84 * DAY))
    end

    private

    def computers
      Fleet::COMPUTERS.each do |name, about|
        Computer.create!(name:, place: about[:place], model: about[:model], firmware: about[:firmware], system_identity: about[:id])
      end
      KIOSKS.each do |name, place|
        Computer.create!(name:, place: "Timetable kiosk, #{place}", model: 'Lume Kiosk', firmware: 'bios',
                         system_identity: "4C1E77A0-#{name.delete('-')}")
      end
      # Of a camera, what it recorded lies elsewhere.
      Computer.find_by!(name: 'CAM-01').update!(keep_newest: 1, keep_monthly: 0)
      # The catalogue was made before they were known.
      LookThrough.new(Shelf.find_by!(name: 'Holm').tap { |shelf| shelf.shelf_files.delete_all }).run
    end

    def shelves
      office = Shelf.create!(name: 'Office share', kind: 'folder', path: self.class.office(@bench))
      archive = Shelf.create!(name: 'Salt bay', kind: 'drive', path: File.join(@bench.folder, 'shelves', Scenario::ARCHIVE), volume_uuid: Scenario::ARCHIVE_UUID,
                              drive: AttachedDrives.remember.fetch(Scenario::ARCHIVE) { put_back })
      [office, archive].each do |shelf|
        LookThrough.new(shelf).run
        shelf.note_reachable(true)
      end
      web
      @archive = archive
    end

    def put_back
      @bench.plug(Scenario::ARCHIVE, Scenario::ARCHIVE_PORT)
      AttachedDrives.remember.fetch(Scenario::ARCHIVE)
    end

    # A file server in another building: slow, and it asks who one is.
    def web
      File.write(File.join(self.class.web(@bench), StandIns::FileServer::SETTINGS),
                 JSON.pretty_generate(user: WEB_USER, password: WEB_PASSWORD, bytes_per_second: 12_000_000))
      shelf = Shelf.create!(name: 'Far station', kind: 'web', user: WEB_USER, look_state: 'queued',
                            path: "http://127.0.0.1:#{ENV.fetch('EVREL_FILES_PORT', '8741')}/")
      Secrets.keep(shelf, WEB_PASSWORD)
      Delayed::Job.enqueue(LookJob.new(shelf.id), queue: Config.reading)
    end

    def drives
      kaja = Technician.find_by!(sign_in: 'kaja')
      Drive.find_by!(serial: 'OS50-7719-ACC1').update!(protected_by: kaja, protected_note: 'The harbour office’s accounts, no copy yet',
                                                       protected_until: Date.current + 30)
      Drive.find_by!(serial: 'TF24-0310-5D2K').update!(computer: Computer.find_by!(name: 'PIER-02'))
      %w[OT4T-9001-AA71 OT4T-9001-AB71].each { |serial| Drive.find_by!(serial:).update!(computer: Computer.find_by!(name: 'SRV-01')) }
    end

    def dockets
      till = docket('TILL-05', 'infected', 'Receipts cannot be opened, a letter asks for money.',
                    since: @trouble - (6 * DAY) + 7200, noticed: @trouble - (3 * DAY))
      kiosk = docket('KSK-01', 'corrupt', 'Shows a black page since the storm.', since: @trouble - (2 * DAY))
      office = docket('OFC-02', 'replaced', 'The new computer stands beside it.')
      server = docket('SRV-01', 'drive_failed', 'One of three equal drives died; the data drives must survive.', since: @trouble)
      [till, kiosk, office, server].each do |one|
        Event.add('opened', "Docket opened for #{one.computer.name}", docket: one, technician: @ina)
      end
    end

    def docket(computer, cause, note, since: nil, noticed: nil)
      Docket.create!(computer: Computer.find_by!(name: computer), cause:, note:, trouble_since: since, trouble_noticed: noticed,
                     opened_by: @ina)
    end
  end
end
