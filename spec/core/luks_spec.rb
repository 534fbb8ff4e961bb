# frozen_string_literal: true

require 'json'
require 'json_schemer'

RSpec.describe Evrel::Luks do
  let(:passphrase) { 'tide and time' }
  let(:secret) { file('secret').tap { |path| File.write(path, passphrase) } }
  let(:data) { Random.new(1).bytes(1_000_000) }

  before { stub_const('Evrel::Luks::SECONDS', 0.0) } # to try one is quick here

  def container(name = 'container')
    writer = Evrel::Luks::Writer.create(file(name), passphrase)
    writer.pwrite(data, 0)
    yield writer if block_given?
    writer.close
    file(name)
  end

  def opened(path, word = passphrase) = described_class.open(open_disk(path, logical_sector: 1), word)

  # As common tools name what a passphrase opens.
  def options(path, **more)
    more = more.map { |name, value| ",#{name.to_s.tr('_', '.')}=#{value}" }.join
    ['--object', "secret,id=s,file=#{secret}", '--image-opts', "driver=luks,key-secret=s,file.driver=file,file.filename=#{path}#{more}"]
  end

  it 'is opened by common tools with the passphrase alone' do
    path = container
    expect(run('cryptsetup', 'luksDump', path)).to include('xts-plain64').and include('sha256')
    expect(run('cryptsetup', 'open', '--test-passphrase', '--key-file', secret, path)).to eq('')
    run('qemu-img', 'convert', *options(path), '-O', 'raw', file('plain'))
    expect(File.binread(file('plain'), data.bytesize)).to eq(data)
  end

  it 'opens what they make' do
    run('qemu-img', 'create', '-f', 'luks', '--object', "secret,id=s,file=#{secret}", '-o', 'key-secret=s,iter-time=100',
        file('theirs'), '2M')
    File.binwrite(file('raw'), data.ljust(2 * Disks::MIB, "\0"))
    run('qemu-img', 'convert', '-n', '--object', "secret,id=s,file=#{secret}", '--target-image-opts', file('raw'),
        "driver=luks,key-secret=s,file.driver=file,file.filename=#{file('theirs')}")
    expect(opened(file('theirs')).read(0, data.bytesize)).to eq(data)
    %w[sha1 sha512].each do |hash|
      sparse(hash, 8 * Disks::MIB)
      run('cryptsetup', 'luksFormat', '-q', '--type', 'luks1', '--hash', hash, '--pbkdf-force-iterations', '2000', '--key-file', secret,
          '--cipher', 'aes-xts-plain64', file(hash))
      expect(opened(file(hash)).size).to be_positive
    end
  end

  it 'is read and changed at any byte' do
    random = Random.new(3)
    path = container do |writer|
      40.times do
        offset = random.rand(data.bytesize - 3000)
        piece = random.bytes(random.rand(1..3000))
        writer.pwrite(piece, offset)
        data[offset, piece.bytesize] = piece
      end
    end
    disk = opened(path)
    100.times do
      offset = random.rand(data.bytesize - 70_000)
      length = random.rand(1..70_000)
      expect(disk.read(offset, length)).to eq(data.byteslice(offset, length))
    end
  end

  it 'says that the passphrase is missing or wrong, and nothing of it' do
    path = container
    expect { opened(path, nil) }.to raise_error(Evrel::Locked, /locked/)
    expect { opened(path, 'tide and tide') }.to raise_error(Evrel::Locked, /does not open/)
    holding = [Evrel::Keys.one(passphrase), Evrel::Luks::Sectors.new(passphrase * 5), Evrel::Image::ImageFiles.new('x', passphrase)]
    expect(holding.inspect).not_to include(passphrase)
  end

  it 'answers a header that lies with a typed error, in no time' do
    bytes = File.binread(container)
    [[104, "\xFF\xFF\xFF\xFF"], [108, "\0\0\0\x99"], [164, "\x7F\xFF\xFF\xFF"], [212, "\x7F\xFF\xFF\xFF"], [248, "\x7F\xFF\xFF\xFF"],
     [252, "\xFF\xFF\0\0"], [8, 'rot13'.ljust(32, "\0")], [72, 'md5'.ljust(32, "\0")], [0, 'LUKX']].each do |at, lie|
      File.binwrite(file('lie'), bytes.dup.tap { |changed| changed[at, lie.bytesize] = lie.b })
      expect { opened(file('lie')) }.to raise_error(Evrel::Error), "byte #{at}"
    end
    File.binwrite(file('short'), bytes.byteslice(0, 700))
    expect { opened(file('short')) }.to raise_error(Evrel::Damaged)
  end

  describe 'around an image' do
    let(:disk) { three_parts }
    let(:keys) { Evrel::Keys.one(passphrase) }

    def take(**how, &)
      how[:passphrase] ||= passphrase
      open_disk(disk) { |source| Evrel::Image::Capture.new(source, file('image'), **how).run(&) }
    end

    it 'is found without the passphrase, and read, checked, restored and opened by other tools with it' do
      manifest = take
      expect(manifest.locked).to eq('luks1')
      expect(Dir.children(file('image'))).to contain_exactly('disk.qcow2.luks', 'clusters.b3.luks', 'manifest.json', 'layout.sfdisk',
                                                             'left-out.csv', 'SHA256SUMS')
      expect(Dir[file('image/*')].map { |path| File.binread(path) }.join).not_to include('tide table')
      expect { Evrel::Image.open(file('image')) }.to raise_error(Evrel::Locked, /locked/)
      expect { Evrel::Image.open(file('image'), keys: Evrel::Keys.one('no')) }.to raise_error(Evrel::Locked, /does not open/)
      found = []
      Evrel::Shelf::Look.new(Evrel::Shelf::Folder.new(File.dirname(file('image')))).run { |one| (found << one if one) && nil }
      expect(found.find { |one| one.path == 'image' }).to have_attributes(problem: nil, document: have_attributes(locked: 'luks1'))
      image = Evrel::Image.open(file('image'), keys:)
      expect(Evrel::Image::Check.new(image).run).to be_whole
      image.close
      run('qemu-img', 'convert', '--object', "secret,id=s,file=#{secret}", '--image-opts',
          "driver=qcow2,file.driver=luks,file.key-secret=s,file.file.driver=file,file.file.filename=#{file('image/disk.qcow2.luks')}",
          '-O', 'raw', file('flat'))
      expect(run('qemu-img', 'compare', '-f', 'raw', '-F', 'raw', disk, file('flat'))).to include('identical')
      expect(JSONSchemer.schema(JSON.parse(File.read('docs/manifest.schema.json'))).validate(manifest.document).to_a).to be_empty
    end

    it 'goes on after it was cut off, and needs the passphrase for that' do
      stub_const('Evrel::Image::Capture::NOTED', 0.0)
      count = 0
      stopping = -> { raise Evrel::Stopped, 'enough' if (count += 1) == 2 }
      expect { take(unfinished: file('un')) { stopping.call } }.to raise_error(Evrel::Stopped)
      expect { take(unfinished: file('un'), passphrase: 'other') }.to raise_error(Evrel::Locked)
      earlier = nil
      take(unfinished: file('un')) { |progress| earlier ||= progress.earlier }
      expect(earlier).to be_positive
      image = Evrel::Image.open(file('image'), keys:)
      expect(Evrel::Image::Check.new(image).run).to be_whole
      image.close
    end
  end

  it 'opens qcow2 files that common tools have encrypted' do
    disk = three_parts
    size = File.size(disk)
    secured = ['--object', "secret,id=s,file=#{secret}"]
    encrypted = ['-o', 'encrypt.format=luks,encrypt.key-secret=s,encrypt.iter-time=10']
    run('qemu-img', 'create', '-q', '-f', 'qcow2', *secured, *encrypted, file('theirs.qcow2'), size.to_s)
    run('qemu-img', 'convert', '-n', *secured, '--target-image-opts', disk,
        "driver=qcow2,encrypt.key-secret=s,file.filename=#{file('theirs.qcow2')}")
    closed = Evrel::Image::Opener.new(Evrel::Shelf::Folder.new(file('.')), 'theirs.qcow2').recognise
    expect([closed.locked, closed.size, closed.parts]).to eq(['luks1', size, []])
    [nil, 'wrong'].each do |word|
      expect { Evrel::Image.open(file('theirs.qcow2'), keys: Evrel::Keys.one(word)) }.to raise_error(Evrel::Locked)
    end
    image = Evrel::Image.open(file('theirs.qcow2'), keys: Evrel::Keys.one(passphrase))
    expect(image.manifest.id).to eq(closed.id)
    expect(image.manifest).to have_attributes(locked: 'luks1', parts: have_attributes(size: 3))
    expect(Evrel::Image::Check.new(image).run).to be_whole
    target = sparse('target', size)
    open_disk(target, writable: true) do |opened|
      plan = Evrel::Layout.as_in_image(image, opened)
      expect(Evrel::Restore::Engine.new(image:, target: opened, plan:).run).to be_verified
    end
    differ = open_disk(target) do |to|
      open_disk(disk) { |from| image.map.each_cluster.reject { |number, _| to.read(number << 16, 512) == from.read(number << 16, 512) } }
    end
    expect(differ).to eq([])
  ensure
    image&.close
  end
end
