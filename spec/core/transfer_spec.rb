# frozen_string_literal: true

RSpec.describe Evrel::Image::Transfer do
  before { stub_const('Evrel::Image::Transfer::PIECE', 64 * 1024) }

  let(:here) { Evrel::Shelf::Folder.new(file('here').tap { |path| FileUtils.mkdir_p(path) }) }
  let(:there) { Evrel::Shelf::Folder.new(file('there').tap { |path| FileUtils.mkdir_p(path) }) }

  def image(path = 'office/one')
    FileUtils.mkdir_p(File.dirname(File.join(here.root, path)))
    run('cp', '-r', '--sparse=always', captured(three_parts, 'made'), File.join(here.root, path)) unless here.folder?(path)
    path
  end

  def transfer(path = image, document = Evrel::Image::Opener.new(here, path).recognise)
    described_class.new(here, path, described_class.files(here, path, document), there, tag: 7)
  end

  def files(root)
    Dir.glob('**/*', base: root).select { |path| File.file?("#{root}/#{path}") }.to_h { |path| [path, File.binread("#{root}/#{path}")] }
  end

  def found(shelf) = Evrel::Shelf::Look.new(shelf).enum_for(:run).to_a.compact.map(&:path)

  it 'brings every file over, proves each against its checksum, and the image is whole where it arrived' do
    steps = []
    arrived = transfer.run { |progress| (steps << progress.step) && nil }
    expect([arrived.path, arrived.proved]).to eq(['office/one', true])
    expect(steps.uniq).to eq(%w[copy check])
    expect(files(there.root)).to eq(files(here.root))
    opened = Evrel::Image.open(File.join(there.root, arrived.path))
    expect(Evrel::Image::Check.new(opened).run).to be_whole
  ensure
    opened&.close
  end

  it 'goes on where it was cut off, wherever that was, and is found by no look until it is complete' do
    total = transfer.size.fdiv(64 * 1024).ceil
    [1, total / 2, total - 1].each do |after|
      copied = 0
      expect { transfer.run { (copied += 1) == after ? :stop : nil } }.to raise_error(Evrel::Stopped)
      expect(found(there)).to be_empty
      again = 0
      transfer.run { |progress| (again += 1 if progress.step == 'copy') && nil }
      expect(copied + again).to be < total + 8
      expect(files(there.root)).to eq(files(here.root))
      FileUtils.rm_rf(File.join(there.root, 'office'))
    end
  end

  it 'begins anew where the image has changed meanwhile' do
    expect { transfer.run { :stop } }.to raise_error(Evrel::Stopped)
    manifest = File.join(here.root, image, 'layout.sfdisk')
    File.write(manifest, "#{File.read(manifest)}\n")
    expect { transfer.run }.to raise_error(Evrel::Mismatch, /layout.sfdisk does not match its checksum where it comes from/)
    expect(Dir.children(there.root)).to be_empty
  end

  it 'keeps nothing of what does not read back as it was written' do
    spoilt = false
    cut = lambda do |progress|
      next if progress.step == 'copy' || spoilt

      spoilt = true
      File.binwrite(Dir[File.join(there.root, '*.arriving-7', 'clusters.b3')].first, 'x', 3)
      nil
    end
    expect { transfer.run(&cut) }.to raise_error(Evrel::Mismatch, /does not read back as it was written/)
    expect(found(there)).to be_empty
    expect(Dir[File.join(there.root, '**', '*.arriving-*')]).to be_empty
  end

  it 'leaves a name alone that is taken, and puts what lies among others into a folder of its own' do
    FileUtils.mkdir_p(File.join(there.root, 'office/one'))
    expect(transfer.run.path).to eq('office/one-2')
    run('qemu-img', 'convert', '-O', 'qcow2', three_parts, File.join(here.root, 'base.qcow2'))
    run('qemu-img', 'create', '-q', '-f', 'qcow2', '-b', 'base.qcow2', '-F', 'qcow2', File.join(here.root, 'top.qcow2'))
    before = Evrel::Image::Opener.new(here, 'top.qcow2').recognise
    arrived = transfer('top.qcow2', before).run
    expect([arrived.path, arrived.proved]).to eq(['top/top.qcow2', false])
    expect(Evrel::Image::Opener.new(there, arrived.path).recognise.id).to eq(before.id)
    expect(run('qemu-img', 'compare', File.join(there.root, arrived.path), three_parts)).to include('identical')
  end

  it 'says that there is no room, and goes on with what it copied when there is some' do
    skip 'only root can mount' unless Process.uid.zero?
    run('mount', '-t', 'tmpfs', '-o', 'size=8m', 'tmpfs', there.root)
    ballast = File.join(there.root, 'ballast')
    File.binwrite(ballast, 'x' * (there.room.first - (transfer.size / 2)))
    expect { transfer.run }.to raise_error(Evrel::DoesNotFit, /no room left: up to .* more are needed/)
    File.unlink(ballast)
    steps = Hash.new(0)
    transfer.run { |progress| (steps[progress.step] += 1) && nil }
    expect(steps['copy']).to be < steps['check']
    expect(files(there.root)).to eq(files(here.root))
  ensure
    system('umount', '--lazy', there.root, err: File::NULL)
  end

  # pwrite(2) then writes the beginning, and reports no error.
  it 'notices that only the beginning of a cluster found room' do
    skip 'only root can mount' unless Process.uid.zero?
    run('mount', '-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', there.root)
    File.binwrite(File.join(there.root, 'ballast'), 'x' * (there.room.first - (32 * 1024)))
    cluster = Random.new(1).bytes(64 * 1024)
    disk = Evrel::Image::Qcow2Writer.new(File.join(there.root, 'disk'), 2 * Disks::MIB)
    expect { disk.add(0, cluster) }.to raise_error(Errno::ENOSPC)
    expect { Evrel::Room.put(File.open(File.join(there.root, 'more'), 'wb'), cluster, 0) }.to raise_error(Errno::ENOSPC)
  ensure
    system('umount', '--lazy', there.root, err: File::NULL)
  end

  it 'removes exactly the files of an image, and never what lies behind a link' do
    path = image
    other = file('elsewhere').tap { |folder| FileUtils.mkdir_p(folder) }
    File.write(File.join(other, 'disk.qcow2'), 'of somebody else')
    File.symlink(other, File.join(here.root, 'link'))
    File.write(File.join(here.root, path, 'notes.txt'), 'of somebody')
    expect { here.remove(['link/disk.qcow2']) }.to raise_error(Evrel::Refused)
    here.remove(Evrel::Image::Native.files(here, path))
    expect(files(here.root).keys).to eq(['office/one/notes.txt'])
    expect(File.exist?(File.join(other, 'disk.qcow2'))).to be(true)
  end
end
