# frozen_string_literal: true

require 'json_schemer'

# A failing drive: what cannot be read is listed, and nothing else is lost.
RSpec.describe Evrel::Image::Unread do
  let(:source) { three_parts }
  # In the middle of /data/noise.bin, which begins with a block and does not pack.
  let(:bad_at) { File.binread(source).index(Random.new(1).bytes(3_000_000).byteslice(512_000, 64)) }
  let(:bad) { [[bad_at, 1536], [bad_at + 40_960, 512]] }

  def failing(unreadable)
    open_disk(source) { |disk| yield StandIns::Disk::Faulty.new(disk, unreadable:) }
  end

  def capture(unreadable, name = 'image', **options)
    failing(unreadable) { |disk| Evrel::Image::Capture.new(disk, file(name), **options).run }
  end

  def opened
    image = Evrel::Image.open(file('image'))
    yield image
  ensure
    image&.close
  end

  it 'ends a capture unless it is tolerated, and leaves nothing behind' do
    expect { capture(bad) }.to raise_error(Evrel::Unreadable) { |error| expect(error.where).to eq("byte #{bad_at}") }
    expect(Dir[file('image*')]).to be_empty
  end

  it 'is listed to the sector, zeros stand in its place, and all the rest is there' do
    expect(capture(bad, tolerate_unread: true)).to have_attributes(unread: bad, unread_sectors: 4)
    expected = File.binread(source)
    bad.each { |offset, length| expected[offset, length] = "\0" * length }
    File.binwrite(file('expected'), expected)
    expect(run('qemu-img', 'compare', file('expected'), file('image/disk.qcow2'))).to include('identical')
    schema = JSONSchemer.schema(JSON.parse(File.read(File.expand_path('../../docs/manifest.schema.json', __dir__))))
    expect(schema.validate(JSON.parse(File.read(file('image/manifest.json')))).to_a).to be_empty
  end

  it 'is nothing where the drive is not there any more: what was not asked for has no bad places' do
    gone = Class.new(Evrel::Disk::Wrapper) do
      def read_bytes(offset, length)
        raise Evrel::Away, 'the drive does not answer any more' if offset > 100 * Disks::MIB

        super
      end
    end
    open_disk(source) do |disk|
      capture = Evrel::Image::Capture.new(gone.new(disk), file('image'), tolerate_unread: true)
      expect { capture.run }.to raise_error(Evrel::Away)
    end
    expect(Dir[file('image*')]).to be_empty
  end

  it 'is told with the files that lie on it, and counts as no damage' do
    capture(bad, tolerate_unread: true)
    result = opened { |image| Evrel::Image::Check.new(image).run }
    expect(result).to be_whole
    expect(result.unread_hit).to eq([{ part: 2, path: '/data/noise.bin', size: 3_000_000 }])
  end

  it 'is written only by whoever accepts it' do
    capture(bad, tolerate_unread: true)
    target = sparse('target', File.size(source))
    expect { restore(file('image'), target) }.to raise_error(Evrel::Refused, /4 sectors of the image were not read/)
    expect(open_disk(target) { |disk| disk.extents.to_a }).to be_empty
    expect(restore(file('image'), target, accept_unread: true)).to be_verified
  end

  it 'keeps all of a block group whose own map cannot be read' do
    block_bitmap = run('dumpe2fs', part_file).match(/Block bitmap at (\d+)/)[1].to_i * block_size
    document = capture([[(65 * Disks::MIB) + block_bitmap, 512]], tolerate_unread: true)
    system = document.partition(2)
    expect(system['volume']).to include('kind' => 'ext4', 'doubts' => [%r{block group 0: bitmap cannot be read: input/output error}])
    expect(document.unread).to eq([[(65 * Disks::MIB) + block_bitmap, 512]])
    flipped = opened { |image| image.disk.read(bad_at, 64) }
    expect(flipped).to eq(File.binread(source, 64, bad_at))
  end

  def part_file
    @part_file ||= file('part').tap do |path|
      run('dd', "if=#{source}", "of=#{path}", 'bs=1M', 'skip=65', 'count=400', 'conv=sparse', 'status=none')
    end
  end

  def block_size = run('dumpe2fs', '-h', part_file)[/Block size:\s+(\d+)/, 1].to_i

  it 'refuses to go on where the table is gone, or too much' do
    expect { capture([[0, 34 * 512]], tolerate_unread: true) }.to raise_error(Evrel::Unreadable)
    stub_const("#{described_class}::MOST", 3)
    expect { capture(bad, tolerate_unread: true) }.to raise_error(Evrel::Unreadable, /too much/)
    expect(Dir[file('image*')]).to be_empty
  end

  it 'is a list that a manifest may lie about' do
    document = capture(bad, tolerate_unread: true).document
    [1, [1], [[0]], [[-512, 512]], [[0, 0]], [[File.size(source), 512]], [[512, 512], [0, 512]], [%w[0 512]], { 'a' => 1 }].each do |lie|
      expect { Evrel::Image::Manifest.new(document.merge('unread' => lie)) }.to raise_error(Evrel::Damaged, /unread/)
    end
  end
end
