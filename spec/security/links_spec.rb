# frozen_string_literal: true

# Links on disks and shelves that somebody made so that this machine follows them.
RSpec.describe 'Links' do
  let(:outside) { file('outside').tap { |path| FileUtils.mkdir_p(path) } }

  # As a system that was broken into may leave it.
  def ntfs_with_links
    volume = sparse('windows', 40 * Disks::MIB)
    run('mkntfs', '-q', '-F', volume)
    folder = file('mounted').tap { |path| FileUtils.mkdir_p(path) }
    run('ntfs-3g', volume, folder)
    FileUtils.mkdir_p("#{folder}/Windows")
    File.symlink(outside, "#{folder}/Windows/Drivers")
    File.symlink("#{outside}/shadow", "#{folder}/Windows/file")
    volume
  ensure
    run('umount', folder)
  end

  it 'on an NTFS that is mounted to put files into it lead nowhere' do
    skip 'only root can mount' unless Process.uid.zero?
    volume = ntfs_with_links
    editor = open_disk(volume) { |disk| Evrel::Volume.recognise(disk).editor(volume) }
    ['/Windows/Drivers/evil.sys', '/Windows/file', '/Windows/Drivers/deeper/x'].each do |name|
      expect { editor.put(name, 'evil') }.to raise_error(Evrel::Refused), name
    end
    editor.put('/Windows/Other/good.sys', 'good')
    open_disk(volume) { |disk| expect(Evrel::Volume.recognise(disk).file_head('/Windows/Other/good.sys')).to eq('good') }
    expect(Dir.children(outside)).to be_empty

    # Into folders that are there it is not mounted at all.
    allow(Evrel::Tool).to receive(:run).and_call_original
    editor.put('/Windows/Other/good.sys', 'better')
    editor.put('/Windows/Other/new.sys', 'new')
    expect(Evrel::Tool).not_to have_received(:run).with('sh', any_args)
    read = open_disk(volume) do |disk|
      now = Evrel::Volume.recognise(disk)
      %w[good new].map { |name| now.file_head("/Windows/Other/#{name}.sys") }
    end
    expect(read).to eq(%w[better new])
    run('ntfsresize', '-i', '-f', volume)
  end

  it 'on an NTFS need nobody with rights to be safe from, where nothing has to be mounted' do
    skip 'only root can be somebody else' unless Process.uid.zero?
    volume = ntfs_with_links
    File.chmod(0o755, file('.'))
    File.chown(65_534, nil, volume)
    put = lambda do |name|
      as_user(65_534) { Evrel::Disk::File.open(volume) { |disk| Evrel::Volume.recognise(disk) }.editor(volume).put(name, 'by nobody') }
    end
    expect(put['/Windows/new.txt']).not_to include('Error')
    expect(run('ntfscat', '-f', volume, '/Windows/new.txt')).to eq('by nobody')
    expect(put['/Windows/Other/new.txt']).to match(/Unsupported: a folder for it is not there/)
    expect(put['/Windows/Drivers/new.txt']).to match(/Refused/)
  end

  it 'on a shelf lead nowhere for an image that arrives there' do
    FileUtils.mkdir_p([file('here'), file('there')])
    run('cp', '-r', '--sparse=always', captured(three_parts, 'office'), file('here'))
    File.symlink(outside, File.join(file('there'), 'office'))
    here, there = %w[here there].map { |name| Evrel::Shelf::Folder.new(file(name)) }
    arrived = Evrel::Image::Transfer.new(here, 'office', Evrel::Image::Native.files(here, 'office'), there, tag: 1).run
    expect(arrived.path).to eq('office-2')
    FileUtils.mkdir_p(File.join(file('here'), 'deep'))
    FileUtils.mv(File.join(file('here'), 'office'), File.join(file('here'), 'deep/er'))
    File.symlink(outside, File.join(file('there'), 'deep'))
    members = Evrel::Image::Native.files(here, 'deep/er')
    expect { Evrel::Image::Transfer.new(here, 'deep/er', members, there, tag: 2).run }.to raise_error(Evrel::Refused)
    expect(Dir.children(outside)).to be_empty
  end
end
