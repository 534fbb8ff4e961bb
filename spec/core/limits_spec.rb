# frozen_string_literal: true

# Least sizes, held against what the tools of each file system say, and tried.
RSpec.describe Evrel::Volume::Limits do
  def mib = 1024**2
  def limits(path) = open_disk(path) { |disk| Evrel::Volume.recognise(disk).limits }
  def tool(path, size, resizer) = resizer.resize(path, size, sector: 512, time: Time.at(1_700_000_000))
  def up(bytes, unit = mib) = (bytes + unit - 1) / unit * unit

  def ntfs(size)
    sparse('ntfs', size).tap do |path|
      run('mkntfs', '-F', '-Q', '-L', 'Quay', path)
      File.binwrite(file('noise'), Random.new(4).bytes(30_000_000))
      3.times { |index| run('ntfscp', '-f', path, file('noise'), "noise-#{index}") }
    end
  end

  it 'is what resize2fs says of ext4, and no less than its bitmaps count' do
    path = ext('ext4', 600 * mib, '-t', 'ext4', from: tree('noise' => Random.new(2).bytes(60_000_000)))
    found = limits(path)
    told = run('resize2fs', '-P', path)[/size of the filesystem: (\d+)/, 1].to_i
    block = run('dumpe2fs', '-h', path)[/Block size:\s+(\d+)/, 1].to_i
    expect(found).to have_attributes(resizer: Evrel::Volume::ExtResizer, least: told * block)
    expect(found.least).to be > 60_000_000
    tool(path, up(found.least), Evrel::Volume::ExtResizer)
    expect(run('e2fsck', '-f', '-n', path)).to include('Pass 5')
    expect(File.size(path)).to eq(up(found.least))
  end

  it 'is no less than what ntfsresize thinks of NTFS, and it can be that small' do
    path = ntfs(400 * mib)
    found = limits(path)
    thought = run('ntfsresize', '-i', '-f', path)[/resize at (\d+) bytes/, 1].to_i
    expect(found.resizer).to eq(Evrel::Volume::NtfsResizer)
    expect(found.least).to be_between(thought, thought * 12 / 10)
    tool(path, up(found.least), Evrel::Volume::NtfsResizer)
    run('ntfsresize', '-i', '-f', path)
    expect(run('ntfscat', '-f', path, 'noise-2').b).to eq(Random.new(4).bytes(30_000_000))
  end

  [[16, 200], [32, 200]].each do |bits, size|
    it "is enough for a FAT#{bits} with the same files, and keeps its kind" do
      path = fat("fat#{bits}", size * mib, bits)
      before = open_disk(path) { |disk| Evrel::Volume.recognise(disk).uuid }
      found = limits(path)
      expect(found.least).to be < size * mib
      tool(path, up(found.least, 65_536), Evrel::Volume::FatResizer)
      run('fsck.vfat', '-n', path)
      run('mcopy', '-n', '-i', path, '::deep/er/A long name for a file.bin', file('copied'))
      expect(File.binread(file('copied'))).to eq(Random.new(bits).bytes(200_000))
      expect(open_disk(path) { |disk| [Evrel::Volume.recognise(disk).bits, Evrel::Volume.recognise(disk).uuid] }).to eq([bits, before])
    end
  end

  it 'is its size for what no tool here resizes, and for what was not unmounted in order' do
    xfs = sparse('xfs', 400 * mib).tap { |path| run('mkfs.xfs', '-q', path) }
    expect(limits(xfs)).to have_attributes(resizer: nil, least: be_within(mib).of(400 * mib), reason: /keeps its size/)
    dirty = ext('dirty', 64 * mib)
    run('debugfs', '-w', '-R', 'feature needs_recovery', dirty)
    expect(limits(dirty)).to have_attributes(resizer: Evrel::Volume::ExtResizer, least: be_between(17 * mib, 40 * mib),
                                             reason: /what waits is carried out/)
  end

  it 'refuses with the tool’s own words where a volume is not what it seemed' do
    path = ext('broken', 64 * mib)
    File.binwrite(path, "\xFF" * 4096, 1024 + 4096)
    File.binwrite(path, "\xFF" * 200_000, 200_000)
    expect do
      tool(path, 40 * mib, Evrel::Volume::ExtResizer)
    end.to raise_error(Evrel::Damaged, /e2fsck could not do it|resize2fs could not do it/)
  end
end
