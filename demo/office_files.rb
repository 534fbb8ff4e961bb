# frozen_string_literal: true

require 'zlib'

module Demo
  # Made-up files with believable dates: path → [contents, time].
  module OfficeFiles
    DAY = 86_400
    QUAYS = ['Holm quay', 'East pier', 'Lighthouse', 'Salt bay', 'Upper landing'].freeze
    MB = 10**6
    # What lspci -nn -k says on the ticket office's computer.
    HARDWARE = <<~TEXT
      00:00.0 Host bridge [0600]: Brisk Desk board [1b57:0001]
      00:02.0 Non-Volatile memory controller [0108]: Velm NV controller [1b57:5008] (prog-if 02 [NVM Express])
      \tSubsystem: Velm NV2 [1b57:0002]
      \tKernel driver in use: nvme
      00:14.0 USB controller [0c03]: Brisk xHCI [1b57:0003] (prog-if 30 [XHCI])
      \tKernel driver in use: xhci_hcd
    TEXT

    module_function

    # What a ticket office has gathered up to +time+.
    def ticket_office(time, small: false)
      days = small ? 10 : 300
      files = (0...days).to_h do |ago|
        day = time - (ago * DAY)
        ["home/tickets/#{day.strftime('%Y/%m/%d')}.csv", [sales(day, small ? 20 : 1500), day]]
      end
      files['home/timetable.txt'] = ["Timetable from #{(time - (60 * DAY)).strftime('%-d %B')}\n", time - (60 * DAY)]
      files.merge(receipts(time, small ? 2 : 130)).merge(programs(time, small ? 2 : 40))
    end

    # Text, which packs well. The same days are on several disks.
    def sales(day, count)
      number = day.to_i / DAY
      date = day.strftime('%F')
      (@sales ||= {})[[number, date, count]] ||= begin
        random = Random.new(number)
        lines = Array.new(count) do |index|
          "#{date};#{index.to_s.rjust(6, '0')};#{QUAYS.sample(random:)};#{QUAYS.sample(random:)};" \
            "#{random.rand(1..5)};#{random.rand(40..400)}.00\n"
        end
        "day;ticket;from;to;persons;price\n#{lines.join}"
      end
    end

    # Scans, which do not pack at all.
    def receipts(time, count)
      (0...count).to_h do |index|
        ["home/receipts/scan-#{format('%04d', index)}.bin", [Random.new(index).bytes(MB), time - (index * DAY)]]
      end
    end

    # Programs, in between.
    def programs(time, count)
      (0...count).to_h do |index|
        random = Random.new(900 + index)
        word = random.bytes(48)
        ["bin/parts/part-#{format('%02d', index)}", [Array.new(20_000) { word + random.bytes(32) }.join, time - (200 * DAY)]]
      end
    end

    # What a computer of this kind has gathered, in small.
    def of(host, time)
      return ticket_office(time, small: true).merge(tides(time)) if host.start_with?('TKT')

      days = (0...20).to_h do |ago|
        day = time - (ago * DAY)
        ["srv/#{host.downcase}/#{day.strftime('%F')}.log", ["#{host} at #{day.strftime('%F %T')}\n" * 400, day]]
      end
      days.merge(tides(time)).merge(programs(time, 2))
    end

    # A file that every computer has, in another state in each.
    def tides(time)
      rows = Array.new(time.yday + 40) { |day| "#{day};#{QUAYS[day % QUAYS.size]};#{(day * 7) % 310}\n" }.join
      { 'srv/tides/tides-2031.db' => ["tides of 2031\n#{rows}", time - (3 * DAY)] }
    end

    # What does not belong on a till.
    def infection(time)
      { 'bin/parts/part-00' => [Random.new(666).bytes(400_000), time - (2 * 3600)],
        'home/READ-THIS-FIRST.txt' => ["Your receipts are locked.\n", time - (2 * 3600)],
        'etc/rc.local.d/svc' => [Random.new(13).bytes(90_000), time - (2 * 3600)] }
    end

    def harbour_office(time)
      letters = (0...60).to_h do |index|
        day = time - (index * 4 * DAY)
        text = "Harbour office, #{day.strftime('%-d %B %Y')}\n\nTo the quay master\n"
        ["Letters/#{day.year}/letter-#{format('%03d', index)}.txt", [text * 30, day]]
      end
      letters.merge('Plans/berths.png' => [picture, time - (30 * DAY)], 'Accounts/year.csv' => [sales(time, 900), time - (2 * DAY)],
                    'Accounts/scan.bin' => [Random.new(77).bytes(2 * MB), time - (9 * DAY)])
    end

    def journeys(time)
      (0...30).to_h do |ago|
        day = time - (ago * DAY)
        ["journeys/#{day.strftime('%F')}.csv", [sales(day, 30), day]]
      end.merge('plans/quay.png' => [picture, time - (100 * DAY)])
    end

    # A plan of berths, as a PNG: 240 by 160 pixels of eight bits.
    def picture
      rows = Array.new(160) { |y| "\0".b + Array.new(240) { |x| ((x / 30) + (y / 40)).even? ? 220 : 90 + (y / 2) }.pack('C*') }.join
      chunk = ->(type, data) { [data.bytesize].pack('N') + type + data + [Zlib.crc32(type + data)].pack('N') }
      "\x89PNG\r\n\x1A\n".b + chunk.call('IHDR'.b, [240, 160, 8, 0, 0, 0, 0].pack('N2C5')) +
        chunk.call('IDAT'.b, Zlib.deflate(rows)) + chunk.call('IEND'.b, ''.b)
    end

    def old_stock(now, count)
      (0...count).to_h do |index|
        ["stock/list-#{format('%04d', index)}.txt", ["Rope, paint and lamps, sheet #{index}\n" * 40, now - ((330 + (index % 60)) * DAY)]]
      end
    end

    def recordings(now, count)
      (0...count).to_h do |index|
        time = now - (index * 1800)
        ["recordings/#{time.strftime('%F-%H%M')}.rec", [Random.new(5000 + index).bytes(MB / 2), time]]
      end
    end
  end
end
