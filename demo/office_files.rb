# frozen_string_literal: true

module Demo
  # Made-up files with believable dates: path → [contents, time].
  module OfficeFiles
    DAY = 86_400
    QUAYS = ['Holm quay', 'East pier', 'Lighthouse', 'Salt bay', 'Upper landing'].freeze
    MB = 10**6

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

    # Text, which packs well.
    def sales(day, count)
      random = Random.new(day.to_i / DAY)
      lines = Array.new(count) do |index|
        "#{day.strftime('%F')};#{format('%06d', index)};#{QUAYS.sample(random:)};#{QUAYS.sample(random:)};" \
          "#{random.rand(1..5)};#{random.rand(40..400)}.00\n"
      end
      "day;ticket;from;to;persons;price\n#{lines.join}"
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
