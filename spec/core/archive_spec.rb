# frozen_string_literal: true

# What is taken out of a volume, as ordinary tools unpack it.
RSpec.describe Evrel::Archive do
  let(:long) { "#{'a long name ' * 12}.txt" }
  let(:files) do
    { 'home/notes.txt' => "notes\n", "home/#{long}" => "long\n", 'home/deep/er/scan.bin' => Random.new(1).bytes(3_000_000),
      'home/Überfahrt.csv' => "ä;ö\n", 'other.txt' => 'not chosen' }
  end
  let(:volume) { Evrel::Volume.recognise(open_disk(ext('volume', 40 * Disks::MIB, '-t', 'ext4', from: tree(files)))) }

  def archive(kind, paths, of = volume)
    path = file("out.#{kind}")
    @missed = File.open(path, 'wb') { |out| described_class.write(of, paths, kind, out) }
    path
  end

  def unpacked(path)
    FileUtils.mkdir_p(file('out'))
    path.end_with?('.zip') ? run('unzip', '-q', path, '-d', file('out')) : run('tar', '-xf', path, '-C', file('out'))
    Dir.glob('**/*', base: file('out')).select { |name| File.file?(File.join(file('out'), name)) }.to_h do |name|
      [name, File.binread(File.join(file('out'), name))]
    end
  end

  %w[zip tar].each do |kind|
    it "takes files and folders out as .#{kind}, with their times" do
      path = archive(kind, %w[/home /other.txt])
      expect(unpacked(path)).to eq(files.transform_values(&:b).transform_keys { |name| name == "home/#{long}" ? "home/#{long}" : name })
      expect(@missed).to be_empty
      entry = volume.entry('/home/notes.txt')
      expect((File.mtime(File.join(file('out'), 'home/notes.txt')) - entry.modified_at).abs).to be <= 2
    end
  end

  it 'gives no name that leads anywhere else when it is unpacked' do
    { '/../../etc/passwd' => '__/__/etc/passwd', '/a/./b' => 'a/b', "/evil\u202Etxt.exe" => 'evil_txt.exe', "/line\nbreak" => 'line_break',
      '/back\\slash' => 'back_slash', '/C:/x' => 'C_/x', '/dot.' => 'dot_' }.each do |name, safe|
      expect(described_class.safe_name(name)).to eq(safe)
    end
  end

  it 'ends with a list of what could not be taken, and takes the rest' do
    path = ext('volume', 40 * Disks::MIB, '-t', 'ext4', from: tree(files))
    broken = Evrel::Volume.recognise(open_disk(path))
    inode = broken.file_extents(broken.entry('/home/deep/er/scan.bin')).first.first
    # Its first extent leads out of the volume.
    File.binwrite(path, [0xFFFF_FFF0].pack('V'), inode + 0x28 + 12 + 8)
    found = unpacked(archive('tar', ['/home'], Evrel::Volume.recognise(open_disk(path))))
    expect(found['home/notes.txt']).to eq("notes\n")
    expect(found['NOT-TAKEN.txt']).to match(%r{/home/deep/er/scan.bin: .*refers to block})
    expect(@missed.size).to eq(1)
  end

  it 'writes nothing where a path is not there' do
    expect { archive('zip', ['/home', '/nothing']) }.to raise_error(Evrel::NotFound)
    expect(File.size(file('out.zip'))).to eq(0)
  end

  it 'does not go round in a folder that holds itself' do
    path = ext('volume', 40 * Disks::MIB, '-t', 'ext4', '-O', '^metadata_csum', from: tree(files))
    run('debugfs', '-w', '-R', 'ln /home /home/deep/again', path)
    found = unpacked(archive('tar', ['/home'], Evrel::Volume.recognise(open_disk(path))))
    expect(found['NOT-TAKEN.txt']).to include('/home/deep/again: lies too deep, or in itself')
  end
end
