# frozen_string_literal: true

RSpec.describe Evrel::Salvage do
  let(:source) { three_parts }

  # Counts how often each bad place was asked for.
  let(:counting) do
    Class.new(StandIns::Disk::Faulty) do
      def asked = @asked ||= Hash.new(0)

      def read_bytes(offset, length)
        @unreadable.each { |from, size| asked[from] += 1 if overlap?(from, size, offset, length) }
        super
      end
    end
  end

  def store(name = 'salvage') = described_class::Store.open(file(name), File.size(source), 512)

  def salvage(bad, into: store, **options)
    open_disk(source) do |disk|
      clicking = counting.new(disk, **(bad.is_a?(Array) ? { unreadable: bad } : bad))
      return [described_class::Run.new(clicking, into, **options).run { |progress| yield progress if block_given? }, clicking]
    end
  ensure
    into.close
  end

  def sectors(random, count, among)
    Array.new(count) do
      offset, length = among.sample(random:)
      [(offset + random.rand(length)) / 512 * 512, 512 * random.rand(1..3)]
    end.uniq(&:first)
  end

  def used = open_disk(source) { |disk| Evrel::Image::UsedMap.new(disk).each_run.to_a }

  it 'has every sector that can be read of what is used, asks for no bad one too often, and names exactly the bad ones' do
    random = Random.new(11)
    # Not where the file systems say what is used.
    inside = used.select { |offset, length| offset > 66 * Disks::MIB && length > 400_000 }
    (Effort.all? ? 100 : 6).times do |number|
      bad = sectors(random, random.rand(1..40), inside)
      result, clicking = salvage(bad, into: store("salvage-#{number}"), retries: 2)
      expected = bad.flat_map { |offset, length| offset.step(offset + length - 1, 512).to_a }.uniq.sort
      found = result.bad.flat_map { |offset, length| offset.step(offset + length - 1, 512).to_a }
      expect(found - expected).to eq([])
      expect(result.complete).to be(true)
      # Beyond what is used nobody asks.
      expect(expected - found).to all(satisfy { |at| used.none? { |offset, length| at < offset + length && at + 512 > offset } })
      expect(clicking.asked.values.max).to be <= (2 + 7) * 3
      open_disk(source) do |disk|
        open_disk(File.join(file("salvage-#{number}"), 'disk.raw')) do |raw|
          used.each do |offset, length|
            offset.step(offset + length - 1, 65_536) do |at|
              size = [65_536, offset + length - at].min
              next if bad.any? { |from, bytes| from < at + size && from + bytes > at }

              expect(raw.read(at, size)).to eq(disk.read(at, size))
            end
          end
        end
      end
    end
  end

  it 'goes on from its map after the drive went away, at another time, without asking for anything twice' do
    bad = [[used.max_by(&:last).first + 512_000, 1024]]
    expect { salvage({ unreadable: bad, gives_out_after: 3_000_000 }) }.to raise_error(Evrel::Away)
    map = Evrel::Salvage::Map.parse(File.read(File.join(file('salvage'), 'map.json')))
    expect(map.total(:read)).to be_positive
    first = map.total(:read)
    result, = salvage(bad) { |progress| expect(progress.read).to be >= [first, progress.wanted].min }
    expect(result.complete).to be(true)
    expect(result.bad).to eq(bad)
  end

  it 'gets what is given only when it is asked for again, and ends at a limit of time or heat' do
    place = used.max_by(&:last).first + 512_000
    result, = salvage({ reluctant: [[place, 5, 0]] }, retries: 3)
    expect(result.bad).to eq([])
    slow, = salvage({ reluctant: [[place, 0, 1.0]] }, into: store('slow'), slow: 0.6)
    expect(slow).to have_attributes(complete: true, bad: [])
    expect(salvage([], into: store('hurried'), seconds: -1).first).to have_attributes(complete: false, because: :time)
    stub_const('Evrel::Salvage::Run::NOTED', -1)
    expect(salvage([], into: store('hot'), hot: -> { true }).first).to have_attributes(complete: false, because: :heat)
  end

  it 'becomes an image that says what was not read, whose files are named' do
    place = File.binread(source).index(Random.new(1).bytes(3_000_000).byteslice(512_000, 64))
    into = store
    result, clicking = salvage([[place, 1536]], into:)
    into = store
    salvaged = Evrel::Salvage::Salvaged.new(into, result.used, clicking)
    manifest = Evrel::Image::Capture.new(salvaged, file('image'), tolerate_unread: true).run
    into.close
    expect(manifest.unread).to eq([[place, 1536]])
    image = Evrel::Image.open(file('image'))
    expect(Evrel::Image::Damage.new(image).files(manifest.unread).map { |one| one[:path] }).to eq(['/data/noise.bin'])
    image.close
    expected = File.binread(source)
    expected[place, 1536] = "\0" * 1536
    File.binwrite(file('expected'), expected)
    expect(run('qemu-img', 'compare', file('expected'), file('image/disk.qcow2'))).to include('identical')
  end

  describe 'beside an image that lacks places' do
    let(:place) { File.binread(source).index(Random.new(1).bytes(3_000_000).byteslice(512_000, 64)) }
    let(:first) do
      open_disk(source) do |disk|
        faulty = StandIns::Disk::Faulty.new(disk, unreadable: [[place, 1536], [place + 8192, 512]])
        Evrel::Image::Capture.new(faulty, file('first'), tolerate_unread: true).run
      end
      Evrel::Image.open(file('first'))
    end

    after { first.close }

    # The disk gives the first of the two places today.
    def fill(bad = [[place + 8192, 512]])
      open_disk(source) do |disk|
        clicking = counting.new(disk, unreadable: bad)
        inside = used
        moved = 0
        allow(clicking).to(receive(:read_bytes).and_wrap_original do |read, at, length|
          moved += length if inside.any? { |from, size| at.between?(from, from + size - 1) }
          read.call(at, length)
        end)
        Evrel::Salvage.image(clicking, file('salvage'), file('second'), earlier: first)
        return moved
      end
    end

    it 'asks the disk only for these, and has what both have given' do
      stub_const('Evrel::Salvage::Earlier::SAMPLE', 4)
      expect(used.sum(&:last)).to be > 8 * Disks::MIB
      expect(fill).to be < 2 * Disks::MIB
      manifest = Evrel::Image.open(file('second')).then { |image| image.manifest.tap { image.close } }
      expect(manifest.unread).to eq([[place + 8192, 512]])
      expected = File.binread(source)
      expected[place + 8192, 512] = "\0" * 512
      File.binwrite(file('expected'), expected)
      expect(run('qemu-img', 'compare', file('expected'), file('second/disk.qcow2'))).to include('identical')
    end

    it 'takes nothing over where the disk is not as it was' do
      first
      start = open_disk(source) { |disk| Evrel::Table.read(disk).partitions.last.start }
      open_disk(source, writable: true) { |disk| disk.write(start + 1072, "\1\2\3\4".b) } # when it was last written
      expect { fill }.to raise_error(Evrel::Refused, /not as it was/)
      expect(Dir.exist?(file('second'))).to be(false)
    end
  end

  it 'refuses a map that lies, and one of another disk' do
    map = Evrel::Salvage::Map.new(10_240, 512)
    map.set(1024, 512, :bad)
    told = JSON.parse(map.to_json)
    expect(Evrel::Salvage::Map.parse(map.to_json).each.to_a).to eq([[0, 1024, :left], [1024, 512, :bad], [1536, 8704, :left]])
    lies = [{ ranges: [[0, 512, 'read']] }, { ranges: [[0, 10_240, 'fine']] }, { ranges: [[0, -5, 'read']] }, { ranges: 7 },
            { size_bytes: 'x' }, { sector_bytes: 3 }, { format: 'x' }]
    lies.each do |lie|
      expect { Evrel::Salvage::Map.parse(JSON.generate(told.merge(lie.transform_keys(&:to_s)))) }.to raise_error(Evrel::Damaged)
    end
    expect { Evrel::Salvage::Map.parse('{') }.to raise_error(Evrel::Damaged)
    store.close
    expect { described_class::Store.open(file('salvage'), 10_240, 512) }.to raise_error(Evrel::Refused)
  end
end
