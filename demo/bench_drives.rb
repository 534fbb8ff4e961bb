# frozen_string_literal: true

require_relative '../stand_ins/bench'

module Demo
  # What else lies on the bench on a busy day: a drive for every verdict.
  class BenchDrives
    DAY = 86_400
    GB = 10**9
    # That of a ticket office has 240 GB: on half of that its image has to shrink, on the small card it has no room at all.
    DRIVES = {
      'TF24-0310-5D2K' => { port: '5', maker: 'Tarn', model: 'Flux SSD', capacity: 240_057_409_536, bus: 'SATA',
                            smart: StandIns::Smart.ata(hours: 31_120, temperature: 43, wear: 84, reallocated: 12, pending: 6, errors: 19) },
      'OS50-7719-ACC1' => { port: '6', maker: 'Orrin', model: 'Slate HDD', capacity: 500_107_862_016, bus: 'SATA', rotating: true,
                            smart: StandIns::Smart.ata(hours: 20_118, temperature: 36, reallocated: 2) },
      'OS50-4402-88PT' => { port: '7', maker: 'Orrin', model: 'Slate Portable', capacity: 500_107_862_016, bus: 'USB', rotating: true,
                            read_only: true, removable: true, smart: StandIns::Smart.ata(hours: 1490, temperature: 30) },
      'KB12-1187-0WQ8' => { port: '8', maker: 'Kelda', model: 'Bit SSD', capacity: 120_034_123_776, bus: 'SATA',
                            smart: StandIns::Smart.ata(hours: 310, temperature: 29, wear: 1) },
      'VN50-0098-3HLZ' => { port: '9', maker: 'Velm', model: 'NV5 SSD', capacity: 500_107_862_016, bus: 'SATA',
                            smart: StandIns::Smart.ata(hours: 18_020, temperature: 41, wear: 61, reallocated: 4, pending: 7, errors: 3) },
      'KD20-5510-N4K1' => { port: '10', maker: 'Kelda', model: 'Deep 4K', capacity: 2_000_398_934_016, bus: 'NVMe', logical_sector: 4096,
                            smart: StandIns::Smart.nvme(hours: 12, temperature: 38, wear: 0) },
      'CARD-32-77E2' => { port: '11', maker: 'Lume', model: 'Card 32', capacity: 31_914_983_424, bus: 'card reader', removable: true,
                          speed: 18 * (10**6), smart: nil },
      'CARD-02-19QD' => { port: '15', maker: 'Lume', model: 'Card 2', capacity: 1_998_585_856, bus: 'card reader', removable: true,
                          speed: 12 * (10**6), smart: nil },
      'OT4T-9001-AA71' => { port: '12', maker: 'Orrin', model: 'Tide HDD', capacity: 4_000_787_030_016, bus: 'SATA', rotating: true,
                            smart: StandIns::Smart.ata(hours: 26_300, temperature: 35) },
      'OT4T-9001-AB71' => { port: '13', maker: 'Orrin', model: 'Tide HDD', capacity: 4_000_787_030_016, bus: 'SATA', rotating: true,
                            smart: StandIns::Smart.ata(hours: 26_290, temperature: 36) },
      'OT4T-9002-C310' => { port: '14', maker: 'Orrin', model: 'Tide HDD', capacity: 4_000_787_030_016, bus: 'SATA', rotating: true,
                            smart: StandIns::Smart.ata(hours: 2, temperature: 31) }
    }.freeze
    # A hub with a slot for each of eight cards: seven are alike, the last came from an old camera.
    HUB = %w[21 22 23 24 25 26 27 28].freeze
    LABELS = %w[7A2C 7A3F 7A41 7A58 7A6D 7A70 7A9E 0C11].freeze

    # @return [Hash] serial → about
    def self.cards
      HUB.zip(LABELS).to_h do |port, label|
        old = port == HUB.last
        ["LC08-2210-#{label}", { port:, maker: 'Lume', model: old ? 'Card 05' : 'Card 8', capacity: old ? 512_000_000 : 8_004_829_184,
                                 bus: 'card reader', removable: true, speed: 12 * (10**6), smart: nil }]
      end
    end

    # @param now [Time]
    # @param make [#call] serial and about → path of the drive's contents
    # @param fill [#call] serial, label, files, time: one volume on it
    # @param fail [#call] serial and faults: the drive has them from now on
    # @param start_files [String]
    def initialize(now, make:, fill:, fail:, start_files:)
      @now = now
      @make = make
      @fill = fill
      @fail = fail
      @start_files = start_files
    end

    def build
      @paths = DRIVES.merge(BenchDrives.cards).to_h { |serial, about| [serial, @make.call(serial, about)] }
      departures_board
      @fill.call('OS50-7719-ACC1', 'accounts', papers('accounts', 90), @now - (2 * DAY))
      @fill.call('OS50-4402-88PT', 'from-the-far-station', papers('survey', 30), @now - (60 * DAY))
      @fill.call('VN50-0098-3HLZ', 'spare', papers('spare', 4), @now - (400 * DAY))
      failing('VN50-0098-3HLZ', *papers('spare', 4).keys.first(2).map { |path| "/#{path}" })
      @fill.call('OT4T-9001-AA71', 'harbour-data', papers('harbour', 120), @now - 5400)
      @fill.call('OT4T-9001-AB71', 'harbour-data-old', papers('harbour', 80), @now - (700 * DAY))
    end

    private

    # Seven sectors of two sheets cannot be read, one only when it is asked for the third time.
    def failing(serial, *paths)
      Evrel::Disk::File.open(@paths.fetch(serial)) do |disk|
        parts = Evrel::Image::UsedMap.new(disk, prove: false).all
        part = parts.find { |one| one.partition&.role == :system } || parts.first
        first, second = paths.map { |path| part.start + part.volume.content_extents(part.volume.entry(path)).first.first }
        @fail.call(serial, 'unreadable' => [[first, 2560], [second + 2048, 512]], 'reluctant' => [[second, 3, 0]])
      end
    end

    # The system of another computer, which takes ten minutes to start from it: two of its logs are hard to read.
    def departures_board
      files = OfficeFiles.of('PIER-02', @now - (3 * DAY))
      StartingDisk.new(@paths.fetch('TF24-0310-5D2K'), host: 'PIER-02', title: 'Departures', start_files: @start_files,
                                                       ids: Fleet.ids('PIER-02'), files:, at: @now - (3 * DAY), started: true).build
      failing('TF24-0310-5D2K', *files.keys.grep(/log/).first(2).map { |path| "/#{path}" })
    end

    def papers(name, count)
      (0...count).to_h do |index|
        day = @now - (index * DAY) - 5400
        ["#{name}/#{day.strftime('%Y-%m')}/sheet-#{format('%03d', index)}.txt",
         ["#{name}, sheet #{index}, #{day.strftime('%F')}\n" * 200, day]]
      end
    end
  end
end
