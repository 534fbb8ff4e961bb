# frozen_string_literal: true

require 'json'

# Whatever the format, the same disk comes out of it, as the judges say.
RSpec.describe 'Formats of images' do
  let(:kept) { Evrel::Image::Kept.new(file('kept')) }
  let(:disk) { mbr_disk }
  let(:expected) { described(disk) }

  # MBR with a FAT, an active ext4, and two logical partitions: NTFS and swap.
  def mbr_disk = made_once('mbr.raw') { |name| make_mbr_disk(name) }

  def make_mbr_disk(name)
    path = partitioned(name, 150 * Disks::MIB, <<~SCRIPT)
      label: dos
      label-id: 0x5e1f3a90
      start=2048, size=64M, type=c
      size=40M, type=83, bootable
      size=44M, type=5
      start=217088, size=30M, type=7
      start=280576, size=8M, type=82
    SCRIPT
    copy_in(fat('mbr-fat', 64 * Disks::MIB, 32), path, Disks::MIB)
    run('mke2fs', '-q', '-F', '-t', 'ext4', '-L', 'root', '-E', "offset=#{65 * Disks::MIB}", '-d', tree, path, '40M')
    ntfs = sparse('mbr-ntfs', 30 * Disks::MIB)
    run('mkntfs', '-q', '-F', '-Q', '-L', 'Office', ntfs)
    copy_in(ntfs, path, 106 * Disks::MIB)
  end

  def described(path)
    image = Evrel::Image.open(path, kept:)
    image.manifest.document.slice('table', 'systems').merge('size' => image.disk.size)
  ensure
    image&.close
  end

  # Bytes that hold something, from the judge's point of view.
  def same_contents?(path)
    image = Evrel::Image.open(path, kept:)
    raw = open_disk(disk)
    (0...raw.size).step(Disks::MIB).all? { |offset| [image.disk, raw].map { |one| one.read(offset, [Disks::MIB, raw.size - offset].min) }.uniq.one? }
  ensure
    image&.close
  end

  it 'reads an MBR with logical partitions as sfdisk does' do
    theirs = JSON.parse(run('sfdisk', '--json', disk))['partitiontable']
    table = described(disk)['table']
    extended = theirs['partitions'].find { |part| part['type'] == '5' }
    expect(table).to include('kind' => 'mbr', 'guid' => theirs['id'].delete_prefix('0x'))
    expect(table['extended']).to include('number' => 3, 'first_lba' => extended['start'])
    expect(table['partitions'].map { |part| part.values_at('first_lba', 'size_bytes', 'type') })
      .to eq((theirs['partitions'] - [extended]).map { |part| [part['start'], part['size'] * 512, "0x#{part['type'].rjust(2, '0')}"] })
    expect(table['partitions'].map { |part| [part['number'], part['role'], part['volume']['kind']] })
      .to eq([[1, 'data', 'fat32'], [2, 'system', 'ext4'], [5, 'data', 'ntfs'], [6, 'swap', 'unknown']])
    expect(table['partitions'][1]['guid']).to eq('5e1f3a90-02')
  end

  {
    'qcow2 version 2' => %w[qcow2 compat=0.10], 'qcow2 with clusters of 512 bytes' => %w[qcow2 cluster_size=512],
    'qcow2 with clusters of 2 MiB' => %w[qcow2 cluster_size=2M], 'qcow2 with subclusters' => %w[qcow2 extended_l2=on,cluster_size=128k],
    'VHD' => %w[vpc force_size=on], 'fixed VHD' => %w[vpc subformat=fixed,force_size=on], 'VHDX' => %w[vhdx block_size=1M],
    'VMDK' => %w[vmdk subformat=streamOptimized], 'VDI' => %w[vdi]
  }.each do |name, (format, options)|
    it "opens #{name}" do
      path = file('theirs')
      run('qemu-img', 'convert', '-O', format, *(['-o', options] if options), disk, path)
      expect(described(path)['table']['partitions'].map { |part| part.except('volume') })
        .to eq(expected['table']['partitions'].map { |part| part.except('volume') })
      expect(described(path)['size']).to eq(expected['size'])
      expect(same_contents?(path)).to be(true)
    end
  end

  it 'replays the log of a VHDX on an overlay, and leaves the file as it is' do
    path = file('theirs')
    run('qemu-img', 'convert', '-O', 'vhdx', '-o', 'block_size=1M,subformat=fixed', disk, path)
    # What the log says goes to where the disk's first MiB lies in the file: into the gap behind its table.
    mark = File.binread(disk, 512)
    at = (0...File.size(path)).step(Disks::MIB).find { |place| File.binread(path, 512, place) == mark }
    fresh = Random.new(12).bytes(4096)
    WaitingLog.put(path, at + 8192, fresh)
    before = OpenSSL::Digest::SHA256.file(path).hexdigest
    image = Evrel::Image.open(path)
    expect(image.disk.read(8192, 4096) == fresh).to be(true)
    expect(image.findings).to include(/its log waited/)
    expect(image.table.partitions.size).to eq(expected['table']['partitions'].size)
    image.close
    expect(OpenSSL::Digest::SHA256.file(path).hexdigest).to eq(before)
  end

  it 'keeps unpacked disks up to a bound, and removes what was unused for longest' do
    bounded = Evrel::Image::Kept.new(file('bounded'), most: 3 * Disks::MIB)
    uids = %w[one two three].each_with_index.map do |uid, index|
      File.binwrite(bounded.unpacked_at(uid), 'x' * Disks::MIB)
      File.utime(Time.now, Time.now - (100 * (3 - index)), bounded.unpacked_at(uid))
      uid
    end
    expect(bounded.unpacked('one')).to be_a(String) # asked for just now
    File.binwrite(bounded.unpacked_at('four'), 'x' * Disks::MIB)
    bounded.bound('four')
    expect((uids + ['four']).select { |uid| bounded.unpacked(uid) }).to eq(%w[one three four])
    Evrel::Image::Kept.new(file('bounded'), most: 0).bound('four')
    expect((uids + ['four']).select { |uid| bounded.unpacked(uid) }).to eq(%w[four])
  end

  it 'unpacks no more than may be kept, and leaves nothing of it' do
    path = file('theirs.raw.gz')
    Zlib::GzipWriter.open(path) { |io| io.write(File.binread(disk)) }
    tight = Evrel::Image::Kept.new(file('tight'), most: 2 * Disks::MIB)
    expect { Evrel::Image.open(path, kept: tight) { nil } }.to raise_error(Evrel::DoesNotFit, /unpacks to more than/)
    expect(Dir.children(file('tight'))).to eq([])
  end

  { 'qcow' => 'qcow', 'qed' => 'qed', 'parallels' => 'parallels, extended' }.each do |format, name|
    it "refuses by its name, and takes for no raw disk: #{format}" do
      path = file('theirs')
      run('qemu-img', 'convert', '-O', format, disk, path)
      expect { Evrel::Image.open(path) }.to raise_error(Evrel::Unsupported, /#{Regexp.escape(name)} is not read here/)
      found = Evrel::Image::Opener.new(Evrel::Shelf::Folder.new(file('.')), 'theirs', kept:).tap(&:recognise)
      expect(found.problem).to match(/is not read here/)
    end
  end

  { 'gzip' => %w[gzip -1 -k], 'zstd' => %w[zstd -q -1 -k], 'xz' => %w[xz -0 -k], 'bzip2' => %w[bzip2 -1 -k] }.each do |format, tool|
    it "opens a raw disk in #{format}: its table from the head, the rest once it is unpacked" do
      run(*tool, disk)
      packed = Dir["#{disk}.*"].first
      FileUtils.mv(packed, file('no-hint-in-its-name'))
      shelf = Evrel::Shelf::Folder.new(file('.'))
      head = Evrel::Image::Opener.new(shelf, 'no-hint-in-its-name', kept:).recognise
      expect(head.document).to include('format' => format, 'provisional' => true)
      # Of the logical ones the beginning of the disk tells nothing.
      expect(head.partitions.map { |part| part['number'] }).to eq([1, 2])

      expect(described(file('no-hint-in-its-name'))).to eq(expected)
      expect(same_contents?(file('no-hint-in-its-name'))).to be(true)
      expect(Evrel::Image::Opener.new(shelf, 'no-hint-in-its-name', kept:).recognise.document).not_to have_key('provisional')
    end

    it "says that a disk in #{format} ends early" do
      run(*tool, disk)
      packed = Dir["#{disk}.*"].first
      File.truncate(packed, File.size(packed) * 2 / 3)
      expect { Evrel::Image.open(packed, kept:) }.to raise_error(Evrel::Damaged, /cannot be unpacked to its end: .*(end|EOF|premature)/i)
      expect(Dir[file('kept/*')]).to be_empty
    end
  end

  it 'opens the pieces of a packed disk' do
    run('gzip', '-1', disk)
    run('split', '-b', '2M', '-d', '-a', '3', "#{disk}.gz", file('piece.'))
    File.rename("#{disk}.gz", file('whole.gz'))
    expect(described(file('piece.000'))).to eq(described(file('whole.gz')))
  end

  it 'takes a single volume for what it is' do
    image = Evrel::Image.open(ext('volume', 30 * Disks::MIB, '-t', 'ext4', '-L', 'quay'))
    volume = include('kind' => 'ext4', 'label' => 'quay')
    expect(image.manifest).to have_attributes(table?: false, parts: [include('number' => 1, 'volume' => volume)])
  end

  it 'opens no file of this machine that a VMDK names' do
    File.write(file('evil.vmdk'),
               "# Disk DescriptorFile\nversion=1\ncreateType=\"monolithicFlat\"\nRW 20480 FLAT \"/etc/passwd\" 0\n#{'#' * 20_000}")
    expect { Evrel::Image.open(file('evil.vmdk')) }.to raise_error(Evrel::Refused, /outside of its folder/)
  end

  it 'opens no backing file outside of the shelf' do
    run('qemu-img', 'create', '-q', '-f', 'qcow2', '-u', '-b', '../../../etc/passwd', '-F', 'raw', file('evil.qcow2'), '10M')
    expect { Evrel::Image.open(file('evil.qcow2')) }.to raise_error(Evrel::Refused, /leads out of the shelf/)
  end

  it 'gives no file to qemu-nbd that names another, which that would open' do
    run('qemu-img', 'create', '-q', '-f', 'qcow2', '-u', '-o', 'extended_l2=on,cluster_size=128k', '-b', '/etc/passwd', '-F', 'raw',
        file('evil.qcow2'), '10M')
    expect { Evrel::Image.open(file('evil.qcow2')) }.to raise_error(Evrel::Unsupported, /incompatible features/)
  end

  it 'does not go round in a chain that builds on itself' do
    run('qemu-img', 'create', '-q', '-f', 'qcow2', '-u', '-b', 'a.qcow2', '-F', 'qcow2', file('b.qcow2'), '10M')
    run('qemu-img', 'create', '-q', '-f', 'qcow2', '-u', '-b', 'b.qcow2', '-F', 'qcow2', file('a.qcow2'), '10M')
    expect { Evrel::Image.open(file('a.qcow2')) }.to raise_error(Evrel::Damaged, /which builds on it/)
  end

  it 'holds a foreign image against the checksums that lie beside it' do
    FileUtils.mkdir_p(file('beside'))
    run('cp', '--sparse=always', disk, file('beside/card.raw'))
    Dir.chdir(file('beside')) { File.write('SHA256SUMS', run('sha256sum', 'card.raw')) }
    result = -> { Evrel::Image.open(file('beside/card.raw')).then { |image| Evrel::Image::Check.new(image).run } }
    expect(result.call).to be_whole
    flip(file('beside/card.raw'), 104 * Disks::MIB)
    expect(result.call).to have_attributes(whole?: false, files: ['card.raw does not match its checksum'])
  end

  # The way back: what came out of a foreign image is the disk, start-up code and chain of logical partitions included.
  it 'restores a foreign image, checked against the digests that the check took' do
    run('qemu-img', 'convert', '-O', 'vdi', disk, file('disk.vdi'))
    image = Evrel::Image.open(file('disk.vdi'), kept:)
    expect(Evrel::Image::Check.new(image, digests: kept.digests_at(image.uid)).run).to be_whole
    image.close
    [nil, kept].each do |known|
      target = sparse("target-#{known.hash}", File.size(disk) + (100 * Disks::MIB))
      File.binwrite(target, Random.new(1).bytes(5 * Disks::MIB), 0)
      opened = Evrel::Image.open(file('disk.vdi'), kept: known)
      expect(opened.digests).to be_a(known ? Evrel::Image::Digests : Evrel::Image::UsedClusters)
      open_disk(target, writable: true) do |to|
        result = Evrel::Restore::Engine.new(image: opened, target: to, plan: Evrel::Layout.as_in_image(opened, to)).run
        expect(result).to be_verified
      end
      opened.close
      tables = [target, disk].map { |path| run('sfdisk', '-d', path).gsub(/^.*: start|^device.*/, '') }
      expect(tables.first).to eq(tables.last)
      expect(content?('e2fsck', '-fn', "#{target}?offset=#{65 * Disks::MIB}")).to be(true)
    end
  end
end
