# frozen_string_literal: true

# What would be lost, and what is saved of it first.
RSpec.describe Evrel::Safety::Loss do
  let(:before_image) { Time.utc(2026, 3, 1) }
  let(:files) { { 'home/old.txt' => 'old', 'home/new.txt' => 'newer' * 10, 'srv/new.bin' => Random.new(2).bytes(2_000_000) } }
  let(:disk) do
    root = tree(files)
    { 'home/old.txt' => -86_400, 'home/new.txt' => 3600, 'srv/new.bin' => 7200 }.each do |name, offset|
      File.utime(before_image + offset, before_image + offset, File.join(root, name))
    end
    path = partitioned('disk', 200 * Disks::MIB, "label: gpt\nsize=100M, type=L, name=\"Work\"\nsize=40M, type=S\nsize=20M, type=L\n")
    run('mke2fs', '-q', '-F', '-t', 'ext4', '-E', "offset=#{Disks::MIB}", '-d', root, path, '100M')
    run('dd', 'if=/dev/urandom', "of=#{path}", 'bs=1M', 'seek=141', 'count=2', 'conv=notrunc', 'status=none')
    path
  end

  def count(since: before_image, &look) = open_disk(disk) { |opened| described_class.new(opened, since:).count(&look) }

  it 'counts files, the newest, and those newer than the image by folder' do
    result = count
    work = result.volumes.first
    expect(work).to include('name' => 'Work', 'files' => 3, 'newest' => { 'path' => '/srv/new.bin', 'at' => be_a(String) })
    expect(Time.iso8601(work['newest']['at'])).to eq(before_image + 7200)
    expect(work['newer']).to include('files' => 2, 'bytes' => 2_000_050, 'complete' => true)
    expect(work['newer']['folders'].map do |folder|
      folder.values_at('path', 'files', 'bytes')
    end).to eq([['/srv', 1, 2_000_000], ['/home', 1, 50]])
    expect(result).to have_attributes(newer_files: 2, newer_bytes: 2_000_050, files: 3)
  end

  it 'says what cannot be known' do
    result = count
    expect(result.volumes[2]).to include('kind' => 'unknown', 'problem' => 'what is in it cannot be known')
    expect(result.unknown).to eq(%w[Swap Data])
    [512, (200 * Disks::MIB) - 512].each { |offset| File.binwrite(disk, "\xFF" * 16, offset) }
    expect { count }.to raise_error(Evrel::Damaged)
    expect(open_disk(sparse('empty', Disks::MIB)) { |opened| described_class.new(opened).count }.volumes).to be_empty
  end

  it 'is stopped by whoever asks' do
    stub_const("#{described_class}::EVERY", 1)
    expect { count { :stop } }.to raise_error(Evrel::Stopped)
  end

  describe Evrel::Archive::Saved do
    def save(wanted = { 1 => ['/'] }, name: 'saved', **options, &look)
      open_disk(disk) { |opened| described_class.new(opened, wanted, file(name), **options).run(&look) }
    end

    it 'keeps the newer files, as other tools see them' do
      result = save(since: before_image)
      expect(result).to have_attributes(files: 2, bytes: 2_000_050, missed: [])
      FileUtils.mkdir_p(file('out'))
      run('tar', '--zstd', '-xf', result.archive, '-C', file('out'))
      expect(Dir[file('out/**/*')].select do |path|
        File.file?(path)
      end.to_h { |path| [path.delete_prefix(file('out/part-1/')), File.binread(path)] })
        .to eq(files.slice('home/new.txt', 'srv/new.bin').transform_values(&:b))
      expect(File.mtime(file('out/part-1/srv/new.bin'))).to eq(before_image + 7200)
      expect(JSON.parse(File.read(result.index_file))['files'])
        .to include(include('path' => '/home/new.txt', 'sha256' => OpenSSL::Digest::SHA256.hexdigest('newer' * 10)))
    end

    it 'keeps what was chosen, and nothing where something is not there' do
      expect(save({ 1 => ['/home/old.txt', '/srv'] }).index.map { |one| one['path'] }).to eq(['/home/old.txt', '/srv/new.bin'])
      expect { save({ 1 => ['/nothing'] }, name: 'none') }.to raise_error(Evrel::NotFound)
      expect { save({ 3 => ['/'] }, name: 'none') }.to raise_error(Evrel::Unsupported)
      expect { save({ 9 => ['/'] }, name: 'none') }.to raise_error(Evrel::NotFound)
      expect { save }.to raise_error(Evrel::Refused, /is there already/)
      expect(Dir[file('none*')]).to be_empty
    end

    it 'is compared with what lies on the disk, and does not count where it differs' do
      allow(Evrel::Archive::TarReader).to receive(:each).and_wrap_original do |original, path, &block|
        File.binwrite(path, 'x', File.size(path) / 2)
        original.call(path, &block)
      end
      expect { save }.to raise_error(Evrel::Error)
      expect(Dir[file('saved*')]).to be_empty
    end

    it 'takes long names, and more than a header can say' do
      name = "#{'a' * 90}/#{'ü' * 60}.txt"
      path = ext('long', 30 * Disks::MIB, '-t', 'ext4', from: tree(name => 'long', 'b' => 'b'))
      result = open_disk(path) { |opened| described_class.new(opened, { 1 => ['/'] }, file('long-saved')).run }
      expect(run('tar', '--zstd', '-tf', result.archive)).to include("part-1/#{'a' * 90}/")
      expect(result.files).to eq(2)
    end

    it 'leaves nothing where it was stopped' do
      expect { save { :stop } }.to raise_error(Evrel::Stopped)
      expect(Dir[file('saved*')]).to be_empty
    end
  end
end
