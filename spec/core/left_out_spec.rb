# frozen_string_literal: true

# Only bytes that a proved map calls free may be absent from an image.
RSpec.describe Evrel::Image::LeftOut, :in_memory do
  include DoubtfulVolumes
  include OddDisks
  include Recovered

  def inspected(path) = open_disk(path) { |disk| Evrel::Image::Description.of(Evrel::Image::UsedMap.new(disk))['volume'] }

  # @return [String] a disk of the same size onto which an image of the disk was restored
  def there_and_back(path)
    image = capture(path, 'image', {})
    target = sparse('target', File.size(path))
    expect(restore(image, target)).to be_verified
    target
  end

  def manifest = JSON.parse(File.read(file('image/manifest.json')))

  { ext: :ext_cases, fat: :fat_cases, ntfs: :ntfs_cases }.each do |kind, cases|
    describe "a volume of kind #{kind}" do
      Class.new { extend DoubtfulVolumes }.send(cases).each do |name, (made_of, _, doubt)|
        it "with #{name}: #{doubt ? 'is kept whole' : 'is believed'}, and every file comes back" do
          path = sound(made_of)
          instance_exec(path, &send(cases).fetch(name)[1])
          expect(inspected(path)['doubts']).to(doubt ? include(match(doubt)) : be_nil)
          target = there_and_back(path)
          groups = inspected(path)['doubts'].to_a.all? { |one| one.start_with?('block group') }
          expect(File.binread(target) == File.binread(path)).to be(true) if doubt && !groups
          expect(content?('diff', '-r', recovered(path, kind, 'before'), recovered(target, kind, 'after'))).to be(true)
        end
      end
    end
  end

  def table_of(path) = run('sfdisk', '-d', path).gsub(path, 'disk')
  def blkid(path) = Evrel::Linux::Spawn.capture2('blkid', '-p', '-s', 'TYPE', '-o', 'value', path).first.strip

  describe 'a container over a file system' do
    Class.new { extend OddDisks }.containers(20 * Disks::MIB).each do |name, (pieces, kind, word)|
      it "is recognised and kept whole: #{name}" do
        path = sound(:plain)
        pieces.each { |offset, bytes| poke(path, offset, bytes) }
        expect(inspected(path)).to include('kind' => kind)
        alone = sparse('alone', File.size(path))
        pieces.each { |offset, bytes| poke(alone, offset, bytes) }
        word ? expect(blkid(alone)).to(eq(word)) : expect(blkid(alone)).to(end_with('_raid_member'))
        expect(File.binread(there_and_back(path)) == File.binread(path)).to be(true)
        expect(manifest['left_out']).to be_empty
      end
    end

    it 'is recognised and kept whole: a pool' do
      path = sparse('pool', 64 * Disks::MIB)
      copy_in(sound(:plain), path, 0)
      poke(path, 0, zfs_label)
      poke(path, (64 * Disks::MIB) - 262_144, zfs_label)
      expect(inspected(path)).to include('kind' => 'zfs', 'label' => 'tide', 'uuid' => '1234')
      expect(blkid(path)).to eq('zfs_member')
      expect(File.binread(there_and_back(path)) == File.binread(path)).to be(true)
    end

    it 'has the name and the identity that it gives itself' do
      path = sound(:plain)
      poke(path, 4096, md_new(4096))
      expect(inspected(path)).to include('label' => 'quay:0', 'uuid' => '01020304-0506-0708-090a-0b0c0d0e0f10')
      poke(path, 4096, bcache_super)
      expect(inspected(path)).to include('label' => 'quay', 'uuid' => '01020304-0506-0708-090a-0b0c0d0e0f10')
      poke(path, 4096, "\0" * 4096)
      poke(path, 512, lvm_label(1))
      expect(inspected(path)['uuid']).to eq(run('blkid', '-p', '-s', 'UUID', '-o', 'value', path).strip)
    end
  end

  describe 'two file systems in one place' do
    { 'ext2 and swap' => [:plain, { 4086 => 'SWAPSPACE2' }],
      'ext2 and jfs' => [:plain, { 32_768 => 'JFS1' }],
      'fat16 and ext2' => [:fat16, { 1024 + 0x38 => "\x53\xEF" }],
      'ntfs and reiserfs' => [:ntfs, { 65_588 => 'ReIsEr2Fs' }] }.each do |name, (made_of, pieces)|
      it "are both named, and all is kept: #{name}" do
        path = sound(made_of)
        pieces.each { |offset, bytes| poke(path, offset, bytes) }
        document = open_disk(path) { |disk| Evrel::Image::Description.of(Evrel::Image::UsedMap.new(disk)) }
        expect(document['volume']).to include('kind' => 'unknown', 'clean' => nil)
        expect(document['damage']).to match(/looks like .* at once/)
        expect(File.binread(there_and_back(path)) == File.binread(path)).to be(true)
      end
    end
  end

  describe 'what no volume speaks of' do
    mib = Disks::MIB

    # Where to put noise on a disk of two parts, and why it would be lost.
    { 'the rest of a partition behind its file system' => [(28 * mib) - 4096, 4096, :short],
      'the gap between the table and the first part' => [1 * mib, 70_000, nil],
      'right behind the table' => [34 * 512, 512, nil],
      'the last 4 MiB of the disk' => [61 * mib, 100_000, nil],
      'right in front of the copy of the table' => [(64 * mib) - (34 * 512), 512, nil],
      'the 4 KiB in front of a part in the middle' => [(40 * mib) - 4096, 4096, nil],
      'the first KiB of a part, in front of its file system' => [8 * mib, 1024, nil] }.each do |name, (offset, length, short)|
      it "comes back: #{name}" do
        path = two_parts
        if short
          run('dd', 'if=/dev/zero', "of=#{path}", 'bs=1M', 'seek=8', 'count=20', 'conv=notrunc', 'status=none')
          run('mke2fs', '-q', '-F', '-t', 'ext4', '-E', "offset=#{8 * mib}", path, '10M')
        end
        poke(path, offset, noise(offset, length))
        target = there_and_back(path)
        expect(peek(target, offset, length) == noise(offset, length)).to be(true)
        expect(table_of(target)).to eq(table_of(path))
      end
    end

    { fat32: 40, ntfs: 20 }.each do |kind, size|
      it "comes back: what lies behind a volume of kind #{kind} in a larger partition" do
        path = partitioned('disk.raw', 64 * mib, "label: dos\nstart=2048, size=55M, type=c\n")
        copy_in(sound(kind), path, mib)
        at = (1 + size) * mib
        poke(path, at, noise(3, 5000))
        poke(path, (56 * mib) - 512, noise(4, 512))
        target = there_and_back(path)
        expect(peek(target, at, 5000) == noise(3, 5000)).to be(true)
        expect(peek(target, (56 * mib) - 512, 512)).to eq(noise(4, 512))
      end
    end

    it 'comes back: what lies behind a swap space, and not what was swapped out' do
      path = partitioned('disk.raw', 64 * mib, "label: dos\nstart=2048, size=55M, type=82\n")
      copy_in(sparse('swap', 20 * mib).tap { |swap| run('mkswap', '-q', swap) }, path, mib)
      poke(path, 10 * mib, noise(5, 5000))
      poke(path, 30 * mib, noise(6, 5000))
      target = there_and_back(path)
      expect(peek(target, 30 * mib, 5000) == noise(6, 5000)).to be(true)
      expect(peek(target, 10 * mib, 5000)).to eq("\0" * 5000)
      expect(manifest['left_out']).to include(include('part' => 1, 'map' => 'the header of the swap space', 'bytes' => (20 * mib) - 4096))
    end

    it 'comes back: the memory of a system that sleeps in its swap space' do
      path = partitioned('disk.raw', 64 * mib, "label: dos\nstart=2048, size=55M, type=82\n")
      poke(path, mib + 4086, 'S1SUSPEND')
      poke(path, 10 * mib, noise(5, 5000))
      expect(peek(there_and_back(path), 10 * mib, 5000) == noise(5, 5000)).to be(true)
      expect(manifest.dig('table', 'partitions', 0, 'volume')).to include('kind' => 'swap', 'hibernated' => true)
    end

    # Free blocks of the file system in it hold noise, which a map that is believed would leave out.
    { 'a type that is not known' => ['dos', 'a5', 'partitions of type 0xa5 are not known here'],
      'a type of a GPT that is not known' => ['gpt', '0B0B0B0B-1111-4222-8333-444455556666', /are not known here/],
      'a dynamic disk' => ['dos', '42', nil],
      'a dynamic disk with a GPT' => ['gpt', 'AF9B60A0-1431-4F62-BC68-3311714A69AD', nil] }.each do |name, (label, type, doubt)|
      it "comes back whole: a partition of #{name}" do
        path = two_parts(types: [type, 'L'], label:)
        poke(path, 25 * mib, noise(7, 9000))
        target = there_and_back(path)
        expect(peek(target, 8 * mib, 20 * mib) == peek(path, 8 * mib, 20 * mib)).to be(true)
        volume = manifest.dig('table', 'partitions', 0, 'volume')
        doubt ? expect(volume['doubts']).to(include(match(doubt))) : expect(volume['kind']).to(eq('dynamic-disk'))
      end
    end

    it 'comes back whole: a disk with a table that is a member of a RAID' do
      path = two_parts(label: 'dos', types: %w[83 83])
      poke(path, (64 * mib) - (11 * 512), [0x5A7816F3].pack('V'))
      [25, 35].each { |at| poke(path, at * mib, noise(at, 9000)) }
      expect(File.binread(there_and_back(path)) == File.binread(path)).to be(true)
      expect(manifest['kept_whole']).to eq('the disk is a member of a RAID')
    end

    it 'comes back whole: a member of a RAID that has its mark where the copy of a GPT would be' do
      path = two_parts
      poke(path, (64 * mib) - (33 * 512), "\0" * (33 * 512))
      poke(path, (64 * mib) - (11 * 512), [0x5A7816F3].pack('V'))
      [25, 35].each { |at| poke(path, at * mib, noise(at, 9000)) }
      expect(File.binread(there_and_back(path)) == File.binread(path)).to be(true)
      expect(manifest).to include('table' => nil, 'volume' => include('kind' => 'firmware-raid'))
    end
  end

  it 'lists every range that is absent, and nothing else is' do
    path = two_parts
    poke(path, 25 * Disks::MIB, noise(8, 9000))
    image = capture(path, 'image', {})
    rows = File.readlines(file('image/left-out.csv'), chomp: true).drop(1).map { |line| line.split(',', 4) }
    absent = rows.map { |offset, length, *| [offset.to_i, length.to_i] }
    expect(absent.sum(&:last)).to eq(manifest['left_out'].sum { |one| one['bytes'] })
    expect(manifest['left_out']).to contain_exactly(include('part' => nil, 'map' => 'the partition table'),
                                                    include('part' => 1, 'map' => 'the block bitmaps'), include('part' => 2))
    expected = File.binread(path)
    absent.each { |offset, length| expected[offset, length] = "\0" * length }
    File.binwrite(file('expected'), expected)
    expect(run('qemu-img', 'compare', file('expected'), "#{image}/disk.qcow2")).to include('identical')
    expect(content?('sh', '-c', "cd #{image} && sha256sum --strict -c SHA256SUMS")).to be(true)
  end

  it 'keeps whole what has more gaps than can be listed' do
    stub_const("#{described_class}::MOST", 2)
    path = sound(:plain)
    expect(File.binread(there_and_back(path)) == File.binread(path)).to be(true)
    expect(manifest.dig('volume', 'doubts')).to eq(['its map has more than 2 gaps'])
  end
end
