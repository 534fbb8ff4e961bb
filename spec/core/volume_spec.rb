# frozen_string_literal: true

RSpec.describe Evrel::Volume do
  def recognise(path) = described_class.recognise(open_disk(path))

  # Every byte outside of the used map may be forgotten: the judge must still be content.
  def keep_only_used(path)
    copy = sparse('only-used', File.size(path))
    source = open_disk(path)
    open_disk(copy, writable: true) do |disk|
      recognise(path).used_extents { |offset, length| disk.write(offset, source.read(offset, length)) }
    end
    copy
  end

  describe Evrel::Volume::Ext do
    {
      'ext2 of 1 KiB blocks' => ['ext2', %w[-t ext2 -b 1024]],
      'ext3 of 2 KiB blocks' => ['ext3', %w[-t ext3 -b 2048]],
      'ext4' => ['ext4', %w[-t ext4]],
      'ext4 of 1 KiB blocks' => ['ext4', %w[-t ext4 -b 1024]],
      'ext4 with meta groups' => ['ext4', %w[-t ext4 -b 1024 -O meta_bg,^resize_inode]],
      'ext4 of 32 bits with meta groups' => ['ext4', %w[-t ext4 -b 4096 -O meta_bg,^resize_inode,^64bit]],
      'ext4 without flexible groups' => ['ext4', %w[-t ext4 -b 1024 -O ^flex_bg,64bit]],
      'ext4 with uninitialised groups' => ['ext4', %w[-t ext4 -b 1024 -O uninit_bg,^metadata_csum]],
      'ext4 with two backups' => ['ext4', %w[-t ext4 -b 1024 -O sparse_super2]],
      'ext4 with a backup in every group' => ['ext4', %w[-t ext4 -b 1024 -O ^sparse_super,^resize_inode]],
      'ext4 with contents in inodes' => ['ext4', %w[-t ext4 -O inline_data -I 256]]
    }.each do |name, (kind, options)|
      context "with #{name}" do
        let(:path) { ext('volume', 300 * Disks::MIB, '-L', 'quay', *options) }

        it 'agrees with dumpe2fs on what is free, block by block' do
          said = run('dumpe2fs', path)
          volume = recognise(path)
          blocks = said[/^Block count:\s+(\d+)/, 1].to_i
          free = said.scan(/^\s+Free blocks: (.+)$/).flatten.flat_map { |list| list.split(', ') }
          free_blocks = free.sum { |run| run.split('-').map(&:to_i).then { |from, to| (to || from) - from + 1 } }

          expect(volume.used_bytes).to eq((blocks - free_blocks) * volume.block_size)
          expect(gaps(volume, blocks)).to eq(joined(free))
        end

        it 'reads identity, tree and contents' do
          volume = recognise(path)
          expect(volume).to have_attributes(kind:, label: 'quay', clean?: true, size: 300 * Disks::MIB)
          expect(volume.uuid).to eq(run('blkid', '-p', '-s', 'UUID', '-o', 'value', path).strip)
          expect(volume.each_entry.map(&:path)).to include('/etc/hostname', '/data/noise.bin', '/empty')
          %w[/etc/hostname /data/noise.bin /data/text.txt /empty].each do |name|
            run('debugfs', '-R', "dump #{name} #{file('dumped')}", path)
            ours = volume.file_head(name, 10**9)
            # debugfs pads contents that lie in the inode with zeros.
            expect(File.binread(file('dumped'))).to start_with(ours)
            expect(ours).to eq(File.binread(File.join(tree, name)))
          end
        end

        it 'keeps all that the checker needs' do
          expect(content?('e2fsck', '-fn', keep_only_used(path))).to be(true)
        end
      end
    end

    # Free runs of dumpe2fs end at groups; ours do not.
    def joined(runs)
      runs.map { |run| run.split('-').map(&:to_i) }.map { |from, to| [from, to || from] }
          .slice_when { |one, two| two.first != one.last + 1 }.map { |group| [group.first.first, group.last.last] }
    end

    def gaps(volume, blocks)
      at = 0
      used = volume.used_extents.map { |offset, length| [offset / volume.block_size, length / volume.block_size] }
      [*used, [blocks, 0]].filter_map do |first, count|
        gap = [at, first - 1] if first > at
        at = first + count
        gap
      end
    end

    it 'follows links, and notices loops' do
      folder = tree('real/file' => 'here')
      File.symlink('real', File.join(folder, 'link'))
      File.symlink('/loop', File.join(folder, 'loop'))
      volume = recognise(ext('links', 20 * Disks::MIB, '-t', 'ext4', from: folder))

      expect(volume.file_head('/link/file')).to eq('here')
      expect { volume.entry('/loop') }.to raise_error(Evrel::NotFound, /links/)
      expect { volume.entry('/nowhere/file') }.to raise_error(Evrel::NotFound)
    end

    it 'reads holes as zeros' do
      folder = tree('x' => '')
      File.open(File.join(folder, 'sparse'), 'wb') do |io|
        io.seek(5_000_000)
        io.write('end')
      end
      content = recognise(ext('holes', 40 * Disks::MIB, '-t', 'ext4', from: folder)).file_head('/sparse', 10**8)
      expect(content.bytesize).to eq(5_000_003)
      expect(content).to end_with("\0end".b)
    end

    it 'lists a hashed directory of thousands of names' do
      volume = recognise(ext('many', 60 * Disks::MIB, '-t', 'ext4', '-N', '8000', from: tree((0...3000).to_h do |n|
        ["many/file-#{n}", '']
      end)))
      expect(volume.entries('/many').map(&:name)).to match_array((0...3000).map { |n| "file-#{n}" })
    end

    it 'counts everything as used while the journal waits' do
      path = ext('journal', 40 * Disks::MIB, '-t', 'ext4')
      run('debugfs', '-w', '-R', 'feature needs_recovery', path)
      volume = recognise(path)
      expect(volume.clean?).to be(false)
      expect(volume.used_extents.to_a).to eq(open_disk(path).extents.to_a)
    end
  end

  describe Evrel::Volume::Fat do
    { 12 => 2, 16 => 64, 32 => 300 }.each do |bits, size|
      context "with FAT#{bits}" do
        let(:path) { fat('volume', size * Disks::MIB, bits) }

        it 'agrees with fsck.vfat on its clusters' do
          used, all = run('fsck.vfat', '-nv', path)[%r{(\d+)/(\d+) clusters}, 0].split(/\D/).map(&:to_i)
          expect(recognise(path)).to have_attributes(kind: "fat#{bits}", used_clusters: used, cluster_count: all, label: "LABEL#{bits}")
        end

        it 'reads tree and contents' do
          volume = recognise(path)
          expect(volume.each_entry.map(&:path)).to contain_exactly('/deep', '/SHORT.TXT', '/deep/er', '/deep/er/A long name for a file.bin')
          run('mcopy', '-i', path, '::deep/er/A long name for a file.bin', file('theirs'))
          expect(volume.file_head('/DEEP/er/a long name for a file.bin', 10**8)).to eq(File.binread(file('theirs')))
        end

        it 'keeps all that the checker needs' do
          expect(content?('fsck.vfat', '-n', keep_only_used(path))).to be(true)
        end
      end
    end

    it 'names a chain that loops, and reads nothing of it' do
      path = fat('volume', 64 * Disks::MIB, 16)
      volume = recognise(path)
      first = volume.entry('/deep/er/A long name for a file.bin').ref
      File.binwrite(path, [first].pack('v'), (volume.boot.reserved_sectors * 512) + ((first + 20) * 2))
      pieces = []
      expect { recognise(path).read_file('/deep/er/A long name for a file.bin') { |piece| pieces << piece } }
        .to raise_error(Evrel::Damaged, /loops/)
      expect(pieces).to be_empty
    end
  end

  it 'recognises swap and keeps only its header' do
    path = sparse('swap', 16 * Disks::MIB)
    run('mkswap', '-q', '-L', 'spare', path)
    volume = recognise(path)
    expect(volume).to have_attributes(kind: 'swap', label: 'spare', used_bytes: 4096)
    expect(volume.uuid).to eq(run('blkid', '-p', '-s', 'UUID', '-o', 'value', path).strip)
  end

  { 'xfs' => %w[mkfs.xfs -q -L quay], 'btrfs' => %w[mkfs.btrfs -q -L quay], 'exfat' => %w[mkfs.exfat -L quay],
    'luks2' => %w[cryptsetup luksFormat -q --label quay --pbkdf pbkdf2 --pbkdf-force-iterations 1000] }.each do |kind, tool|
    it "recognises #{kind} as blkid does, and keeps all of it" do
      path = sparse('volume', 320 * Disks::MIB)
      run(*tool, path, *('-' if kind == 'luks2'), input: 'a passphrase')
      volume = recognise(path)
      expect(volume).to have_attributes(kind:, label: 'quay', browsable?: false, clean?: nil)
      expect(volume.uuid).to eq(run('blkid', '-p', '-s', 'UUID', '-o', 'value', path).strip)
      expect(volume.size).to be_between(310 * Disks::MIB, 320 * Disks::MIB)
      expect(volume.used_extents.to_a).to eq(open_disk(path).extents.to_a)
    end
  end

  it 'recognises ISO 9660' do
    run('genisoimage', '-quiet', '-V', 'HOLM', '-o', file('iso'), tree)
    expect(recognise(file('iso'))).to have_attributes(kind: 'iso9660', label: 'HOLM', size: File.size(file('iso')))
  end

  it 'takes all data of an unknown volume' do
    path = sparse('unknown', 8 * Disks::MIB)
    File.binwrite(path, Random.new(1).bytes(100_000), 4 * Disks::MIB)
    volume = recognise(path)
    expect(volume.kind).to eq('unknown')
    expect(volume.used_extents.to_a).to include(satisfy { |offset, length|
      offset <= 4 * Disks::MIB && offset + length >= (4 * Disks::MIB) + 100_000
    })
  end

  describe 'beside blkid' do
    def blkid(path, what) = Evrel::Linux::Spawn.capture2('blkid', '-p', '-s', what, '-o', 'value', path).first.strip

    { 'ext2' => %w[-t ext2], 'ext2 with meta groups' => %w[-t ext2 -O meta_bg,^resize_inode], 'ext3' => %w[-t ext3],
      'ext3 with a flexible layout' => %w[-t ext3 -O flex_bg], 'ext4' => %w[-t ext4],
      'ext4 without a journal' => %w[-t ext4 -O ^has_journal], 'ext2 with checksums' => %w[-t ext2 -O uninit_bg] }.each do |name, options|
      it "is called the same: #{name}" do
        path = sparse('volume', 30 * Disks::MIB)
        run('mke2fs', '-q', '-F', *options, path)
        expect(recognise(path).kind).to eq(blkid(path, 'TYPE'))
      end
    end

    it 'has the longer name of a disc, and no identity of nothing but zeros' do
      run('genisoimage', '-quiet', '-J', '-V', 'Tide tables', '-o', file('disc'), tree)
      expect(recognise(file('disc'))).to have_attributes(kind: 'iso9660', label: 'Tide tables')
      path = ext('volume', 30 * Disks::MIB, '-t', 'ext4')
      run('tune2fs', '-f', '-U', 'clear', path)
      expect(recognise(path).uuid).to be_nil
    end

    it 'goes by the label in the root directory of a FAT, the first letter 0xE5 among them' do
      path = fat('volume', 20 * Disks::MIB, 16)
      File.binwrite(path, 'ANOTHERNAME', 43)
      expect(recognise(path).label).to eq('LABEL16')
      at = File.binread(path).rindex('LABEL16    '.b)
      File.binwrite(path, "\x05", at)
      expect(recognise(path).label).to eq('σABEL16')
      File.binwrite(path, "\xE5", at)
      expect(recognise(path).label).to be_nil
    end

    it 'takes what leads outside of a short volume for damage' do
      path = sparse('short', 2048)
      File.binwrite(path, "\x53\xEF", 1024 + 0x38)
      expect { recognise(path) }.to raise_error(Evrel::Damaged)
      expect { open_disk(path) { |disk| disk.read(4096, 512) } }.to raise_error(Evrel::Damaged, /outside of a disk/)
    end
  end

  describe Evrel::Volume::ExtGroups do
    # Groups of 8 MiB: 16 descriptors of 64 bytes in each block of 1 KiB, which begin in block 2.
    let(:path) { ext('groups', 256 * Disks::MIB, '-b', '1024', '-t', 'ext4') }

    def groups(disk) = described_class.new(disk, Evrel::Volume.recognise(disk).superblock)

    it 'reads the descriptors of a block at once' do
      open_disk(path) do |disk|
        asked = groups(disk)
        allow(disk).to receive(:read).and_call_original
        expect(Array.new(32) { |group| asked[group].block_bitmap }.uniq.size).to eq(32)
        expect(disk).to have_received(:read).twice
      end
    end

    it 'has all others where one place of a block cannot be read' do
      readable = [*0..7, *16..31]
      open_disk(path) do |disk|
        whole = groups(disk)
        asked = groups(StandIns::Disk::Faulty.new(disk, unreadable: [[2048 + 512, 512]]))
        expect(readable.map { |group| asked[group] }).to eq(readable.map { |group| whole[group] })
        expect { asked[9] }.to raise_error(Evrel::Unreadable)
      end
    end
  end
end
