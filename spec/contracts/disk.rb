# frozen_string_literal: true

# What every kind of disk promises to whoever reads. The including group
# defines `disk`, of at least 4 MiB.
RSpec.shared_examples 'a disk to read' do
  it 'has a size in whole sectors' do
    expect(disk.size % disk.logical_sector).to eq(0)
    expect([512, 4096]).to include(disk.logical_sector)
    expect(disk.physical_sector % disk.logical_sector).to eq(0)
  end

  it 'reads exactly what was asked for, in pieces as in one' do
    whole = disk.read(0, 200_000)
    expect(whole.bytesize).to eq(200_000)
    expect(whole.encoding).to eq(Encoding::BINARY)
    expect([[0, 70_001], [70_001, 99_999], [170_000, 30_000]].map { |range| disk.read(*range) }.join).to eq(whole)
    expect(disk.read(0, 0)).to eq('')
  end

  it 'gives bytes that whoever asked may change' do
    before = disk.read(0, 70_000)
    disk.read(0, 70_000).clear
    expect(disk.read(0, 70_000)).to eq(before)
  end

  it 'refuses to read outside of it' do
    [[-1, 1], [disk.size, 1], [disk.size - 1, 2], [0, -1]].each do |offset, length|
      expect { disk.read(offset, length) }.to raise_error(Evrel::OutOfRange)
    end
  end

  it 'reads into a string that is there already, and refuses to leave the disk then, too' do
    buffer = 'what was there'.b
    expect(disk.read_into(buffer, 5, 70_000)).to be(buffer)
    expect(buffer).to eq(disk.read(5, 70_000))
    expect(disk.read_into(buffer, 5, 0)).to eq('')
    expect { disk.read_into(buffer, disk.size - 1, 2) }.to raise_error(Evrel::OutOfRange)
  end

  it 'is shown to tools as a file of its bytes' do
    expect([true, false]).to include(disk.fork_safe?)
    expect(disk.shared_io).to be_nil.or be_an(IO)
    disk.as_file do |path|
      expect(File.open(path) { |io| io.seek(0, IO::SEEK_END) && io.pos }).to be >= disk.size
      expect(File.binread(path, 70_000, 4096) == disk.read(4096, 70_000)).to be(true)
    end
  end

  it 'holds zeros wherever it says that there is no data' do
    at = 0
    [*disk.extents, [disk.size, 0]].each do |offset, length|
      expect(offset).to be >= at
      expect(disk.read(at, [offset - at, 1024**2].min).count("\0")).to eq([offset - at, 1024**2].min)
      at = offset + length
    end
    expect(at).to be <= disk.size
  end
end

# And to whoever writes. holes: whether it knows where nothing was ever written.
RSpec.shared_examples 'a disk' do |holes: true|
  let(:noise) { Random.new(3).bytes(70_000) }

  it_behaves_like 'a disk to read'

  it 'gives back what was written, at any offset' do
    before = disk.read(12_344, 1)
    disk.write(12_345, noise)
    disk.flush
    disk.drop_cache

    expect(disk.read(12_345, noise.bytesize)).to eq(noise)
    expect(disk.read(12_344, 1)).to eq(before)
  end

  it 'refuses to write outside of it' do
    expect { disk.write(disk.size - 1, 'ab') }.to raise_error(Evrel::OutOfRange)
    expect { disk.discard(disk.size, 1) }.to raise_error(Evrel::OutOfRange)
  end

  it 'forgets what is discarded, and nothing else' do
    disk.write(0, "\1".b * (3 * (1024**2)))
    disk.discard(1024**2, 1024**2)

    expect(disk.discards_to_zero?).to be(true)
    expect(disk.read(1024**2, 1024**2).count("\0")).to eq(1024**2)
    expect(disk.read((1024**2) - 1, 1)).to eq("\1".b)
    expect(disk.read(2 * (1024**2), 1)).to eq("\1".b)
  end

  it 'makes zeros of a range, and of nothing else' do
    disk.write(0, "\1".b * (3 * (1024**2)))
    disk.zero((1024**2) + 512, 700_000)
    expect(disk.read((1024**2) + 512, 700_000).count("\0")).to eq(700_000)
    expect([disk.read((1024**2) + 511, 1), disk.read((1024**2) + 700_512, 1)]).to eq(["\1".b] * 2)
    expect { disk.zero(disk.size - 1, 2) }.to raise_error(Evrel::OutOfRange)
  end

  it 'tells where there may be data' do
    disk.discard(0, disk.size)
    disk.write(2 * (1024**2), noise)
    held = disk.extents.to_a

    expect(held).to all(satisfy { |offset, length| offset >= 0 && length.positive? && offset + length <= disk.size })
    expect(held).to include(satisfy { |offset, length| offset <= 2 * (1024**2) && offset + length >= (2 * (1024**2)) + noise.bytesize })
    expect(held.sum(&:last)).to holes ? be < disk.size : eq(disk.size)
  end
end

# What stands before a disk keeps from it whatever it is there to keep. The
# including group defines `disk`, writable, which refuses everything by now.
RSpec.shared_examples 'a wrapper that nothing is slipped past' do
  operations = { read: [0, 512], read_into: [+'', 0, 512], write: [0, 'x' * 512], zero: [0, 4 * (1024**2)], discard: [0, 4096], flush: [] }

  operations.each do |name, given|
    it "lets no #{name} through" do
      before = bytes_behind
      expect { disk.public_send(name, *given) }.to raise_error(Evrel::Error)
      expect(bytes_behind == before).to be(true)
    end
  end

  it 'gives nothing of the disk behind it away' do
    expect(disk).not_to respond_to(:path)
  end
end
