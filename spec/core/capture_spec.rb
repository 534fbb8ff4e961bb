# frozen_string_literal: true

require 'json'
require 'json_schemer'

RSpec.describe Evrel::Image::Capture do
  let(:disk) { three_parts }
  let(:folder) { file('taken') }
  let(:qcow2) { File.join(folder, 'disk.qcow2') }

  def run(*command, chdir: Dir.pwd, input: '') = Dir.chdir(chdir) { super(*command, input:) }

  def take(path = disk, to = folder, **how, &)
    open_disk(path) { |opened| described_class.new(opened, to, taken_at: Time.at(1_800_000_000), **how).run(&) }
  end

  def raw_of(image, name = 'flat.raw')
    run('qemu-img', 'convert', '-O', 'raw', File.join(image, 'disk.qcow2'), file(name))
    file(name)
  end

  def part_of(path, first, count, name)
    run('dd', "if=#{path}", "of=#{file(name)}", 'bs=1M', "skip=#{first}", "count=#{count}", 'status=none')
  end

  describe 'of chosen parts' do
    it 'holds them and nothing of the others, and says so for good' do
      manifest = take(parts: [1, 2])
      expect(run('qemu-img', 'check', qcow2)).to include('No errors')
      { 'disk' => disk, 'image' => raw_of(folder) }.each do |name, path|
        part_of(path, 1, 464, "#{name}-kept")
        part_of(path, 465, 32, "#{name}-rest")
      end
      expect(same?(file('disk-kept'), file('image-kept'))).to be(true)
      expect(File.binread(file('image-rest')).count("\0")).to eq(32 * Disks::MIB)
      expect(File.binread(file('disk-rest')).count("\0")).to be < 32 * Disks::MIB
      expect(manifest.not_taken.map { |part| part['name'] }).to eq(['Swap'])
      expect(manifest.partitions.map { |part| part['name'] }).to eq(%w[Start-up System])
      expect(manifest.left_out).to include('part' => 3, 'map' => 'left out by choice', 'ranges' => 1, 'bytes' => 32 * Disks::MIB)
      expect(JSONSchemer.schema(JSON.parse(File.read('docs/manifest.schema.json'))).validate(manifest.document).to_a).to be_empty
    end

    it 'comes back as a disk without them' do
      take(parts: [1, 2])
      target = sparse('target', File.size(disk))
      expect(restore(folder, target)).to be_verified
      opened = Evrel::Image.open(folder)
      expect(Evrel::Image::Structure.kept(opened.manifest)).to eq(['left out when it was taken: Swap'])
      plan = open_disk(target) { |on| Evrel::Layout.as_in_image(opened, on) }
      expect(plan.checks.map(&:title)).to include('Swap is not in the image')
      opened.close
      expect(run('sgdisk', '-v', target)).to include('No problems found')
      expect(run('sfdisk', '-l', target)).to include('System').or include('target2')
      expect(run('sfdisk', '-d', target).scan(/^\S+ : start=/).size).to eq(2)
      expect(run('e2fsck', '-f', '-n', "#{target}?offset=#{65 * Disks::MIB}")).to include('System')
    end

    it 'refuses parts that are not there, and none' do
      expect { take(parts: [1, 7]) }.to raise_error(Evrel::Refused, /no part 7/)
      expect { take(parts: []) }.to raise_error(Evrel::Refused, /no part is chosen/)
      expect(Dir.children(File.dirname(folder))).not_to include(a_string_starting_with('taken'))
    end
  end

  describe 'without what the system makes anew' do
    # 300 pages of noise behind the header that mkswap writes.
    def with_swap_file(mark: 'SWAPSPACE2')
      path = file('swap')
      File.binwrite(path, Random.new(3).bytes(300 * 4096))
      run('mkswap', '-q', path)
      File.open(path, 'r+b') do |io|
        io.pwrite(Random.new(4).bytes(1024), 0) # zeros would become a hole
        io.pwrite(mark.ljust(10, "\0"), 4086)
      end
      disk = partitioned('swapped', 200 * Disks::MIB, "label: gpt\nsize=100M, type=L, name=System\n")
      volume = ext('volume', 100 * Disks::MIB, '-t', 'ext4', '-b', '4096', from: tree('etc/hostname' => "quay\n",
                                                                                      'etc/fstab' => "/room none swap sw 0 0\n",
                                                                                      'room' => File.binread(path)))
      copy_in(volume, disk, Disks::MIB)
      disk
    end

    it 'leaves a swap file’s contents zero, its header and the file system as they were' do
      path = with_swap_file
      manifest = take(path, temporary: false)
      expect(manifest.document['temporary']).to eq([{ 'part' => 1, 'path' => '/room', 'bytes' => (300 * 4096) - 65_536 }])
      flat = raw_of(folder)
      expect(run('e2fsck', '-f', '-n', "#{flat}?offset=#{Disks::MIB}")).to include('clean').or include('files')
      run('debugfs', '-R', "dump /room #{file('room')}", "#{flat}?offset=#{Disks::MIB}")
      room = File.binread(file('room'))
      expect(room.byteslice(0, 65_536)).to eq(File.binread(file('swap'), 65_536))
      expect(room.byteslice(65_536..)).to eq("\0".b * ((300 * 4096) - 65_536))
      expect(run('sha256sum', '-c', 'SHA256SUMS', chdir: folder)).to include('disk.qcow2: OK')
      expect(JSONSchemer.schema(JSON.parse(File.read('docs/manifest.schema.json'))).validate(manifest.document).to_a).to be_empty
    end

    it 'keeps all of a swap file in which a system’s memory lies' do
      path = with_swap_file(mark: 'S1SUSPEND')
      expect(take(path, temporary: false).document).not_to have_key('temporary')
      expect(run('qemu-img', 'compare', path, qcow2)).to include('identical')
    end

    it 'leaves a page file of Windows zero, and keeps it all where the system sleeps' do
      volume = sparse('ntfs', 64 * Disks::MIB)
      run('mkntfs', '-q', '-F', '-Q', '-L', 'Office', volume)
      { 'pagefile.sys' => Random.new(1).bytes(900_000), 'hiberfil.sys' => "\0" * 500_000 }.each do |name, content|
        File.binwrite(file(name), content)
        run('ntfscp', '-f', '-q', volume, file(name), name)
      end
      manifest = take(volume, temporary: false)
      expect(manifest.document['temporary'].map { |one| one['path'] }).to eq(%w[/pagefile.sys /hiberfil.sys])
      flat = raw_of(folder)
      expect(run('ntfsfix', '-n', flat)).to include('processed successfully')
      expect(run('ntfscat', flat, 'pagefile.sys').b.byteslice(0, 900_000).count("\0")).to eq(900_000)

      File.binwrite(file('hiberfil.sys'), 'hibr'.ljust(500_000, 'm'))
      run('ntfscp', '-f', '-q', volume, file('hiberfil.sys'), 'hiberfil.sys')
      expect(take(volume, file('asleep'), temporary: false).document).not_to have_key('temporary')
    end
  end

  it 'is smaller at a higher level, and holds the same' do
    programs = ext('programs', 64 * Disks::MIB, from: tree('sources' => Dir['lib/**/*.rb'].map { |path| File.read(path) }.join * 4))
    sizes = [1, 12].map do |level|
      take(programs, file("level-#{level}"), level:)
      File.size(File.join(file("level-#{level}"), 'disk.qcow2'))
    end
    expect(sizes.last).to be < sizes.first
    expect(run('qemu-img', 'compare', programs, File.join(file('level-12'), 'disk.qcow2'))).to include('identical')
  end

  describe 'on top of another image' do
    # Files come, change and go; the rest stays.
    def changed(path)
      start = 65 * Disks::MIB
      File.binwrite(file('new'), Random.new(9).bytes(200_000))
      what = ['rm /data/text.txt', "write #{file('new')} /data/new.bin"]
      what.each { |one| run('debugfs', '-w', '-R', one, "#{path}?offset=#{start}") }
      content?('e2fsck', '-f', '-y', "#{path}?offset=#{start}")
    end

    def flat(image, name) = raw_of(image, name)

    it 'holds what differs, and is one image with what lies below for whoever opens it' do
      take(disk, file('first'))
      changed(disk)
      manifest = take(disk, file('second'), onto: file('first'))
      first, second = %w[first second].map { |name| File.join(file(name), 'disk.qcow2') }
      expect(manifest.onto).to eq('id' => JSON.parse(File.read(file('first/manifest.json')))['id'], 'path' => '../first', 'depth' => 1)
      expect(File.size(second)).to be < File.size(first) / 2
      expect(run('qemu-img', 'info', second)).to include('backing file: ../first/disk.qcow2').and include('backing file format: qcow2')
      expect(run('qemu-img', 'check', second)).to include('No errors')
      # The same as a whole one, byte for byte.
      take(disk, file('whole'))
      expect(same?(flat(file('second'), 'chain.raw'), flat(file('whole'), 'whole.raw'))).to be(true)
      opened = Evrel::Image.open(file('second'))
      expect(Evrel::Image::Check.new(opened).run).to be_whole
      opened.close
      target = sparse('target', File.size(disk))
      expect(restore(file('second'), target)).to be_verified
      expect(run('e2fsck', '-f', '-n', "#{target}?offset=#{65 * Disks::MIB}")).to include('System')
      expect(JSONSchemer.schema(JSON.parse(File.read('docs/manifest.schema.json'))).validate(manifest.document).to_a).to be_empty
    end

    it 'is made whole, and needs nothing below any more' do
      take(disk, file('first'))
      changed(disk)
      take(disk, file('second'), onto: file('first'))
      expected = flat(file('second'), 'chain.raw')
      merged = Evrel::Image::Merge.new(file('second')).run
      expect(merged.onto).to be_nil
      FileUtils.rm_rf(file('first'))
      expect(run('qemu-img', 'info', file('second/disk.qcow2'))).not_to include('backing')
      expect(run('qemu-img', 'check', file('second/disk.qcow2'))).to include('No errors')
      expect(same?(flat(file('second'), 'merged.raw'), expected)).to be(true)
      expect(run('sha256sum', '-c', 'SHA256SUMS', chdir: file('second'))).to include('disk.qcow2: OK')
      opened = Evrel::Image.open(file('second'))
      expect(Evrel::Image::Check.new(opened).run).to be_whole
      opened.close
      expect { Evrel::Image::Merge.new(file('second')).run }.to raise_error(Evrel::Refused, /it is whole/)
    end

    it 'goes on after it was cut off, and ends the same' do
      stub_const("#{described_class}::NOTED", 0.0)
      take(disk, file('first'))
      changed(disk)
      whole = take(disk, file('second'), onto: file('first')).then { File.join(file('second'), 'disk.qcow2') }
      count = 0
      stopping = -> { raise Evrel::Stopped, 'enough' if (count += 1) == 2 }
      expect { take(disk, file('third'), onto: file('first'), unfinished: file('un')) { stopping.call } }.to raise_error(Evrel::Stopped)
      take(disk, file('third'), onto: file('first'), unfinished: file('un'))
      expect(same?(whole, File.join(file('third'), 'disk.qcow2'))).to be(true)
    end

    it 'is refused on top of another disk, of one that was not read in full, and below eight' do
      other = captured(ext('other', 30 * Disks::MIB), 'other-image')
      expect { take(disk, file('second'), onto: other) }.to raise_error(Evrel::Refused, /another size/)
      take(disk, file('0'))
      (1..7).each { |number| take(disk, file(number.to_s), onto: file((number - 1).to_s)) }
      expect { take(disk, file('8'), onto: file('7')) }.to raise_error(Evrel::Refused, /8 images lie below/)
      expect(same?(flat(file('7'), 'deep.raw'), flat(file('0'), 'first.raw'))).to be(true)
      path = file('1/manifest.json')
      File.write(path, JSON.generate(JSON.parse(File.read(path)).merge('id' => '0' * 8)))
      expect { Evrel::Image.open(file('2')) }.to raise_error(Evrel::Damaged, /another image/)
      FileUtils.rm_rf(file('0'))
      expect { Evrel::Image.open(file('1')) }.to raise_error(Evrel::Unreadable, /missing/)
    end
  end

  describe 'that is read back before it has its name' do
    def checked(**how, &)
      open_disk(disk) { |opened| described_class.new(opened, folder, checked: true, **how).tap { |capture| capture.run(&) }.checked }
    end

    it 'is held against its digests while its checksums are taken' do
      told = []
      result = checked { |progress| told << [progress.checked, progress.total] if progress.checked && !File.exist?(folder) }
      expect(result).to be_whole
      expect(result.clusters).to eq(Evrel::Image::Manifest.parse(File.read(File.join(folder, 'manifest.json'))).stored_clusters)
      expect(told.last.uniq.size).to eq(1)
      expect(run('sha256sum', '-c', 'SHA256SUMS', chdir: folder).scan(/: OK$/).size).to eq(5)
      expect(Dir.children(folder)).to contain_exactly('disk.qcow2', 'clusters.b3', 'manifest.json', 'layout.sfdisk', 'left-out.csv',
                                                      'SHA256SUMS')
    end

    it 'says what does not read back, and is there all the same' do
      unfinished = file('unfinished')
      result = checked(unfinished:) do |progress|
        next if progress.checked || progress.done < progress.total

        bytes = File.binread(File.join(unfinished, 'disk.qcow2'))
        File.open(File.join(unfinished, 'disk.qcow2'), 'r+b') do |io|
          io.pwrite(bytes.byteslice(200_000, 64).bytes.map { |byte| byte ^ 0xFF }.pack('C*'), 200_000)
        end
      end
      expect(result).not_to be_whole
      expect(result.places.first[:reason]).to match(/digest|broken|holds/)
      expect(File.exist?(folder)).to be(true)
    end

    it 'says in the words of the core what cannot be read for its checksums' do
      FileUtils.mkdir_p(file('image/disk.qcow2'))
      expect { Evrel::Image::Sums.written(file('image'), %w[disk.qcow2]) }
        .to raise_error(Evrel::Unreadable, /cannot be read for its checksums/)
    end

    it 'is so with a passphrase, and on top of another image' do
      expect(checked(passphrase: 'tide and time')).to be_whole
      expect(run('sha256sum', '-c', 'SHA256SUMS', chdir: folder)).to include('disk.qcow2.luks: OK')
      FileUtils.rm_rf(folder)
      take(disk, file('first'))
      expect(checked(onto: file('first'))).to be_whole
      expect(run('sha256sum', '-c', 'SHA256SUMS', chdir: folder)).to include('disk.qcow2: OK')
    end
  end

  describe 'that was cut off' do
    let(:unfinished) { file('unfinished') }

    before { stub_const("#{described_class}::NOTED", 0.0) }

    def stop = raise(Evrel::Stopped, 'enough')
    def whole = take(disk, file('whole')).then { File.join(file('whole'), 'disk.qcow2') }

    it 'goes on from where it was, and ends byte for byte the same' do
      [1, 3, 2].each do |times|
        expect { take(unfinished:) { raise Evrel::Stopped, 'enough' if (times -= 1).zero? } }.to raise_error(Evrel::Stopped)
      end
      earlier = nil
      take(unfinished:) { |progress| earlier ||= progress.earlier }
      expect(earlier).to be_positive
      expect(Dir.children(folder)).to contain_exactly('disk.qcow2', 'clusters.b3', 'manifest.json', 'layout.sfdisk', 'left-out.csv',
                                                      'SHA256SUMS')
      expect(same?(whole, qcow2)).to be(true)
      expect(same?(File.join(file('whole'), 'clusters.b3'), File.join(folder, 'clusters.b3'))).to be(true)
      expect(run('qemu-img', 'check', qcow2)).to include('No errors')
      expect(File.exist?(unfinished)).to be(false)
    end

    it 'goes on after its process was killed' do
      pid = fork do
        take(unfinished:) { |progress| Process.kill(:KILL, Process.pid) if progress.done > 2 * Disks::MIB }
      ensure
        Process.exit!
      end
      Process.wait(pid)
      expect(JSON.parse(File.read(File.join(unfinished, 'taking.json')))['clusters']).to be_positive
      take(unfinished:)
      expect(same?(whole, qcow2)).to be(true)
    end

    it 'goes on after it was stopped while its checksums were taken and it was read back' do
      stopped = -> { take(unfinished:, checked: true) { |progress| raise Evrel::Stopped, 'enough' if progress.checked } }
      expect(&stopped).to raise_error(Evrel::Stopped)
      expect(File.exist?(folder)).to be(false)
      earlier = nil
      take(unfinished:, checked: true) { |progress| earlier ||= progress.earlier }
      expect(earlier).to be_positive
      expect(same?(whole, qcow2)).to be(true)
      expect(run('sha256sum', '-c', 'SHA256SUMS', chdir: folder)).not_to include('FAILED')
    end

    it 'begins anew where the disk, or what is wanted of it, is another' do
      expect { take(unfinished:) { stop } }.to raise_error(Evrel::Stopped)
      earlier = nil
      take(unfinished:, parts: [2]) { |progress| earlier ||= progress.earlier }
      expect(earlier).to eq(0)
      expect(run('qemu-img', 'check', qcow2)).to include('No errors')
    end
  end
end

RSpec.describe Evrel::Image::Sample do
  # Quay after quay of text, and noise: half of it packs well.
  let(:path) do
    text = (1..200_000).map { |number| "#{number} boats lie at the quay of the tide\n" }.join
    ext('mixed', 200 * Disks::MIB, '-t', 'ext4', from: tree('text' => text * 4, 'noise' => Random.new(2).bytes(30_000_000)))
  end

  def forecasts(disk, **options)
    described_class.new(disk, Evrel::Image::UsedMap.new(disk), [1, 3, 12]).forecasts(**options)
  end

  it 'says a range that holds the true size, at every level, from a small part of it' do
    open_disk(path) do |disk|
      forecasts(disk).each do |one|
        Evrel::Image::Capture.new(disk, file("level-#{one.level}"), level: one.level).run
        size = File.size(File.join(file("level-#{one.level}"), 'disk.qcow2'))
        expect(size).to be_between(one.stored.first * 0.95, (one.stored.last * 1.05) + (40 * Evrel::Image::CLUSTER))
      end
    end
  end

  it 'goes by the shelf where that is the slowest, and takes nothing for nothing' do
    open_disk(path) do |disk|
      slow = forecasts(disk, writes: 1000.0).first
      expect(slow.seconds.zip(slow.stored)).to all(satisfy { |seconds, bytes| (seconds / (bytes / 1000.0)).between?(1.0, 1.01) })
      expect(forecasts(disk).map { |one| one.seconds.first }).to all(be_positive)
    end
    open_disk(sparse('empty', 10 * Disks::MIB)) { |disk| expect(forecasts(disk).first.stored.first).to be < 4096 }
  end
end
