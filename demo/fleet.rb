# frozen_string_literal: true

require 'fileutils'
require 'tmpdir'
require_relative 'image_making'
require_relative 'kiosk_disk'
require_relative 'ntfs_disk'
require_relative 'office_files'
require_relative 'side_by_side'
require_relative 'starting_disk'

module Demo
  # The rest of the company's images: other computers, other formats, and what
  # goes wrong with images. Each is taken of a disk that was really built.
  class Fleet
    include ImageMaking

    DAY = 86_400
    DESK = 240_057_409_536
    SMALL_DESK = 120_034_123_776 # every computer but those in the ticket offices
    # Packing reads all of a disk, empty or not: what is packed here is small.
    CARD = 640 * (10**6)
    # The clock of a computer that came from the far islands was never set back.
    FAR_ZONE = '+11:00'
    COMPUTERS = {
      'TKT-04' => { place: 'East pier ticket office', model: 'Brisk Desk 5', firmware: 'uefi', id: '4C1E77A0-TKT04' },
      'TILL-05' => { place: 'Café on the upper landing', model: 'Lume Till 2', firmware: 'uefi', id: '4C1E77A0-TIL05' },
      'OFC-02' => { place: 'Harbour office', model: 'Brisk Desk 7', firmware: 'uefi', id: '4C1E77A0-OFC02' },
      'KSK-01' => { place: 'Timetable kiosk, Holm quay', model: 'Lume Kiosk', firmware: 'bios', id: '4C1E77A0-KSK01' },
      'SRV-01' => { place: 'Harbour office, cellar', model: 'Brisk Tower', firmware: 'uefi', id: '4C1E77A0-SRV01' }
    }.freeze

    # The identities of a computer's disk stay the same from image to image.
    def self.ids(host)
      return Scenario::IDS if host == 'TKT-03'

      digits = OpenSSL::Digest::SHA256.hexdigest(host)
      %i[disk esp system recovery system_uuid recovery_uuid].each_with_index.to_h do |name, index|
        [name, "#{digits[index * 8, 8]}-#{digits[0, 4]}-4#{digits[4, 3]}-8#{digits[8, 3]}-#{digits[index, 12]}"]
      end
    end

    # @param trouble [Time] when the story's trouble began
    # @param start_files [String] folder with a kernel and a loader
    # @param places [Hash] :holm, :office, :archive, :web → folders
    def initialize(trouble, start_files:, places:)
      @trouble = trouble
      @start_files = start_files
      @places = places
    end

    # Two processes, one for each core that a small machine has; what they make
    # has nothing to do with each other.
    SHARES = [%i[ticket_offices failing_drive till server], %i[harbour_office kiosk departures_board cameras]].freeze

    # @raise [RuntimeError] where one of them could not be made; it has said why
    def build = Demo.apart(*SHARES.map { |steps| -> { make(steps) } })

    private

    def make(steps)
      Dir.mktmpdir('evrel-fleet') do |work|
        @work = work
        steps.each { |step| send(step) }
      end
    end

    def days(ago, hour = 0) = @trouble - (ago * DAY) + (hour * 3600)

    # Older images of the broken computer, one of them damaged, and its twin.
    def ticket_offices
      { 61 => 'Before the clocks changed', 92 => 'New till roll', 123 => 'After the move' }.each do |ago, note|
        native(:office, "tkt03-#{ago}", 'TKT-03', days(ago, 4), note)
      end
      damage(File.join(@places[:office], 'tkt03-61', 'disk.qcow2'))
      native(:holm, 'full_backup_new(2)', 'TKT-04', days(5, -5), 'East pier, before the repair')
      native(:archive, 'tkt04-spring', 'TKT-04', days(190, 2), 'Spring')
    end

    # Two hours after it failed, as far as the drive still gave it.
    def failing_drive
      time = days(0, 2)
      disk = desk('TKT-03', time)
      scans = { 'scan-0000' => 150, 'scan-0001' => 62 }
      unreadable = Evrel::Disk::File.open(disk) do |opened|
        part = Evrel::Table.read(opened).partitions.find { |one| one.role == :system }
        volume = Evrel::Volume.recognise(part.window(opened))
        scans.map do |name, sectors|
          offset, = volume.file_extents(volume.entry("/home/receipts/#{name}.bin")).max_by(&:last)
          [part.start + offset + (64 * 512), sectors * 512]
        end
      end
      native_of(disk, :office, 'rescued-tkt03', 'TKT-03', time, 'From the failing drive',
                unreadable: unreadable.sort)
    end

    # The till was infected between two of its nightly images.
    def till
      [9, 7, 5, 3, 1].each do |ago|
        native(:office, "till/#{days(ago).strftime('%Y-%m-%d')}", 'TILL-05', days(ago, 9), 'Nightly', infected: ago < 5)
      end
    end

    def harbour_office
      disk = ntfs_disk(days(20), SMALL_DESK, 2048)
      convert(disk, 'vhdx', @places[:office], 'harbour-office.vhdx', days(48))
      native_of(disk, :archive, 'office', 'OFC-02', days(20), 'Before the update')
      packed(ntfs_disk(days(75), CARD, 450), %w[gzip -1], @places[:office], 'ofc_disk.img.gz', days(75))
    end

    # A card in many shapes: packed, in a chain, in a chain that lacks a file.
    def kiosk
      disk = kiosk_disk(days(40))
      packed(disk, %w[zstd -q -3], @places[:web], 'kiosk/card-zstd', days(40))
      convert(disk, 'qcow2', @places[:office], 'kiosk-base.qcow2', days(40))
      overlay('kiosk-base.qcow2', 'kiosk-spring.qcow2', days(12))
      # This one was copied without what it builds on.
      FileUtils.mkdir_p("#{@places[:archive]}/moved")
      FileUtils.cp("#{@places[:office]}/kiosk-spring.qcow2", "#{@places[:archive]}/moved/kiosk-summer.qcow2", preserve: true)
      packed(kiosk_disk(days(210)), %w[zstd -q -3], @places[:archive], 'card.2', days(210))
    end

    # One image in pieces, and one of whose pieces was lost.
    def departures_board
      split(desk('PIER-02', days(33)), @places[:office], 'pier', days(33))
      split(desk('PIER-02', days(64)), @places[:archive], 'pier-old', days(64))
      FileUtils.rm(Dir["#{@places[:archive]}/pier-old.0*"][1])
      native(:web, 'pier02-newest', 'PIER-02', days(6, 3), 'Before the new board')
    end

    # Taken at the other end of the archipelago.
    def cameras
      [15, 45].each { |ago| native(:web, "cameras/cam01-#{ago}", 'CAM-01', days(ago).getlocal(FAR_ZONE), 'From the far station') }
      convert(desk('CAM-01', days(100)), 'vdi', @places[:archive], 'camera', days(100))
      convert(desk('CAM-01', days(130)), 'vmdk', @places[:archive], 'camera-2', days(130))
      packed(ntfs_disk(days(160), CARD / 2, 150), %w[xz -0], @places[:archive], 'old-papers', days(160))
    end

    def server
      [2, 30, 58].each { |ago| native(:web, "srv01/#{ago}", 'SRV-01', days(ago, 1), 'System disk') }
      native(:archive, 'srv01-year', 'SRV-01', days(300), 'Yearly')
    end

    def native(place, name, host, time, note, infected: false) = native_of(desk(host, time, infected:), place, name, host, time, note)

    def native_of(disk, place, name, host, time, note, unreadable: [])
      capture(disk, File.join(@places[place], name), time, about(host, note), unreadable:)
    end

    def about(host, note)
      known = COMPUTERS[host] || { model: { 'TKT-03' => 'Brisk Desk 5', 'CAM-01' => 'Brisk Box 2', 'PIER-02' => 'Lume Panel' }.fetch(host),
                                   firmware: 'uefi', id: { 'TKT-03' => '4C1E77A0-TKT03', 'CAM-01' => '4C1E77A0-CAM01',
                                                           'PIER-02' => '4C1E77A0-PIER2' }.fetch(host) }
      { 'computer' => { 'name' => host, 'model' => known[:model], 'firmware' => known[:firmware], 'system_identity' => known[:id] },
        'drive' => drive(host), 'note' => note }
    end

    def drive(host)
      maker, model, serial = host == 'TKT-03' ? ['Velm', 'NV2 SSD', 'VN24-0071K9XD'] : ['Tarn', 'Flux SSD', "TF24-#{host.delete('-')}-4D1A"]
      { 'maker' => maker, 'model' => model, 'serial' => serial, 'capacity_bytes' => size(host), 'bus' => 'SATA' }
    end

    def size(host) = host.start_with?('TKT') ? DESK : SMALL_DESK

    # @return [String] path of a disk that starts, with what the computer has gathered
    def desk(host, time, infected: false)
      path = "#{@work}/#{host}"
      FileUtils.rm_f(path)
      Evrel::Disk::File.create(path, size(host))
      files = OfficeFiles.of(host, time)
      files = files.merge(OfficeFiles.infection(time)) if infected
      StartingDisk.new(path, host:, title: host, start_files: @start_files, ids: Fleet.ids(host), files:, at: time).build
      path
    end

    def ntfs_disk(time, size, volume_mib)
      path = "#{@work}/office"
      FileUtils.rm_f(path)
      Evrel::Disk::File.create(path, size / 512 * 512)
      NtfsDisk.new(path, guid: '2b6c1d84-90fe-4a37-8b5d-61c0e2f7a9d3', files: OfficeFiles.harbour_office(time), volume_mib:).build
      path
    end

    def kiosk_disk(time)
      path = "#{@work}/card"
      FileUtils.rm_f(path)
      Evrel::Disk::File.create(path, CARD)
      KioskDisk.new(path, host: 'KSK-01', signature: '5e1f3a90', start_files: @start_files, files: OfficeFiles.journeys(time),
                          at: time).build
      path
    end
  end
end
