# frozen_string_literal: true

# Disks and volumes that nobody here has made, broken ones among them, held
# against what blkid calls them and against what e2fsck recovers. Asked with
# EVREL_EFFORT=all; docs/foreign.md has the counts of the last time.
RSpec.describe 'Foreign disks' do
  include Recovered

  before { skip 'asked with EVREL_EFFORT=all' unless Effort.all? }

  # Our word → blkid's, where they are not the same.
  words = { 'fat12' => 'vfat', 'fat16' => 'vfat', 'fat32' => 'vfat', 'luks1' => 'crypto_LUKS', 'luks2' => 'crypto_LUKS',
            'lvm' => 'LVM2_member', 'linux-raid' => 'linux_raid_member', 'zfs' => 'zfs_member', 'bitlocker' => 'BitLocker',
            'swap' => /\Asw/, 'vmfs' => 'VMFS', 'firmware-raid' => /_raid_member\z/ }.freeze

  def blkid(path, what) = Evrel::Linux::Spawn.capture2('blkid', '-p', '-s', what, '-o', 'value', path, err: File::NULL).first.strip

  def look(path)
    open_disk(path) do |disk|
      map = Evrel::Image::UsedMap.new(disk)
      [map, Evrel::Image::Description.of(map), Evrel::Image::LeftOut.new(map, disk.size).each.first(100_000)]
    end
  end

  def told(title, counts)
    puts "      #{title}: #{counts.sort_by { |_, count| -count }.map { |word, count| "#{count} #{word}" }.join(', ')}"
  end

  # Holds what is said of each sample against blkid.
  define_method(:against_blkid) do |package, pattern|
    counts = Hash.new(0)
    other = []
    ForeignSources.each_sample(package, pattern, @folder) do |path, sample|
      _, about, = look(path)
      kind = about.dig('volume', 'kind') || 'a table'
      type = blkid(path, 'TYPE')
      counts[kind == 'unknown' ? 'kept whole without a name' : "as #{kind}"] += 1
      next if ['a table', 'unknown'].include?(kind) || words.fetch(kind, kind) === type # rubocop:disable Style/CaseEquality -- a word or a pattern

      other << "#{File.basename(sample)}: #{kind}, and blkid says #{type.inspect}"
    end
    told(package, counts)
    other
  end

  it 'are called what blkid calls them: the samples of util-linux' do
    expect(against_blkid('util-linux', 'tests/ts/blkid/images-fs/*.xz')).to be_empty
  end

  it 'are called what blkid calls them: the samples of btrfs-progs and cryptsetup' do
    expect(against_blkid('btrfs-progs', 'tests/*/**/*.{raw,img}.xz')).to be_empty
    expect(against_blkid('cryptsetup', 'tests/*.{img,img.xz,img.bz2}')).to be_empty
  end

  it 'are dynamic, named, and kept whole: the samples of libldm' do
    folder = ForeignSources.fetch('libldm')
    run('tar', 'xf', File.join(folder, 'test/data/ldm-data.tar.xz'), '-C', @folder)
    disks = Dir[file('*.img')]
    expect(disks.size).to be > 10
    disks.each do |path|
      map, about, absent = look(path)
      expect(about['table']['partitions'].map { |part| part['volume'] }).to all(include('kind' => 'dynamic-disk')).or(
        include(include('kind' => 'dynamic-disk', 'uuid' => /\A\h{8}-/))
      )
      expect(absent.map(&:part).compact & map.parts.select(&:whole).map(&:number)).to be_empty
    end
  end

  # Every one of these is broken in a way of its own: what e2fsck makes of it and of what an image of it would hold is the same.
  it 'lose no file that e2fsck recovers: the samples of e2fsprogs' do
    counts = Hash.new(0)
    lost = []
    ForeignSources.each_sample('e2fsprogs', 'tests/*/image.gz', @folder) do |path, sample|
      next if File.size(path) < 1024

      _, about, absent = look(path)
      counts[about.dig('volume', 'doubts') ? 'not believed' : 'believed, or kept whole by kind'] += 1
      next if absent.empty? || absent.size == 100_000

      run('cp', '--sparse=always', path, file('held'))
      open_disk(file('held'), writable: true) { |disk| absent.each { |range| disk.discard(range.offset, range.length) } }
      folders = [[path, 'before'], [file('held'), 'after']].map { |one, name| recovered(one, :ext, name) }
      counts['with something left out, and the same files'] += 1 if (same = content?('diff', '-r', '--no-dereference', *folders))
      lost << sample unless same
      FileUtils.rm_rf(folders)
    end
    told('e2fsprogs', counts)
    expect(lost).to be_empty
  end
end
