# frozen_string_literal: true

require 'json_schemer'
require 'json'
require_relative '../../stand_ins/smart'

RSpec.describe 'bin/evrel' do
  let(:disk) { three_parts }
  let(:image) { captured(disk, 'computer' => { 'name' => 'TKT-03' }) }

  # As bin/evrel does, without a process of its own.
  # @return [Array] exit code, JSON or nil, messages
  def evrel(*arguments)
    out, err = Array.new(2) { StringIO.new }
    code = Evrel::CLI.new(out:, err:).run(arguments)
    [code, out.string.empty? ? nil : JSON.parse(out.string), err.string]
  end

  it 'captures chosen parts, packed as they are wished' do
    code, manifest, = evrel('capture', disk, file('two'), '--parts', '1,2', '--level', 'small', '--without-temporary')
    expect([code, manifest['version']]).to eq([0, 3])
    expect(evrel('capture', disk, file('none'), '--parts', '9').first).to eq(1)
    expect(evrel('capture', disk, file('none'), '--level', 'tiny').first).to eq(2)
  end

  it 'salvages in passes, ends in time, goes on, and tells what became of it' do
    code, told, = evrel('capture', disk, file('image'), '--salvage', file('work'), '--minutes', '-1')
    expect([code, told['because']]).to eq([1, 'time'])
    expect(File.exist?(file('image'))).to be(false)
    expect(evrel('map', file('work'))[1]['left_bytes']).to be_positive
    code, manifest, = evrel('capture', disk, file('image'), '--salvage', file('work'), '--retries', '0')
    expect([code, manifest['unread'], File.exist?(file('work'))]).to eq([0, nil, false])
    expect(run('qemu-img', 'compare', disk, file('image/disk.qcow2'))).to include('identical')
    code, map, = evrel('map', file('image'))
    expect([code, map['bad_bytes'], map['unread']]).to eq([0, 0, []])
    schema = JSONSchemer.schema(JSON.parse(File.read('docs/salvage.schema.json')))
    expect(schema.validate(JSON.parse(File.read(file('image/salvage.json')))).to_a).to be_empty
    expect(evrel('verify', file('image'))).to match([0, include('whole' => true), ''])
    expect(evrel('map', disk).first).to eq(1).or eq(2)
  end

  it 'takes, verifies and restores an image with a passphrase from a file, and ends with 1 where that is missing or wrong' do
    File.write(file('word'), "tide and time\nsecond line\n")
    File.write(file('wrong'), "tide\n")
    expect(evrel('capture', disk, file('image'), '--passphrase-file', file('word')).first).to eq(0)
    expect(evrel('verify', file('image'), '--passphrase-file', file('word'))).to match([0, include('whole' => true), ''])
    [[], ['--passphrase-file', file('wrong')]].each do |given|
      code, told, = evrel('verify', file('image'), *given)
      expect([code, told['error']]).to eq([1, 'Locked'])
    end
    target = sparse('target', File.size(disk))
    expect(evrel('restore', file('image'), target, '--passphrase-file', file('word'))[1]).to include('verified' => true)
    expect(run('qemu-img', 'compare', disk, target)).to include('identical')
    expect(evrel('list', file('image'), 'hostname', '--passphrase-file', file('word'))[1]['entries'].size).to eq(1)
  end

  it 'is a program' do
    program = File.expand_path('../../bin/evrel', __dir__)
    out, err, status = Evrel::Linux::Spawn.capture3(program, 'inspect', disk)
    expect([status.exitstatus, JSON.parse(out), err]).to eq([0, evrel('inspect', disk)[1], ''])
    expect(Evrel::Linux::Spawn.capture3(program, 'inspect').last.exitstatus).to eq(2)
  end

  it "loads nothing in threads, which would get in each other's way" do
    File.write(file('word'), "tide and time\n")
    evrel('capture', disk, file('locked'), '--passphrase-file', file('word'))
    watched = <<~RUBY
      require 'evrel'
      Evrel.module_eval('LOADER').on_load(:ANY) { |name| warn name unless Thread.current == Thread.main }
      exit Evrel::CLI.new.run(ARGV)
    RUBY
    targets = Array.new(2) { |number| sparse("one-of-#{number}", File.size(disk)) }
    [['capture', disk, file('another')], ['verify', file('locked'), '--passphrase-file', file('word')],
     ['restore', file('locked'), targets.first, '--passphrase-file', file('word')], ['run', image, *targets]].each do |command|
      _, said, status = Evrel::Linux::Spawn.capture3(RbConfig.ruby, '-I', 'lib', '-e', watched, *command)
      expect([said, status.exitstatus]).to eq(['', 0])
    end
  end

  it 'captures, inspects, verifies and restores' do
    code, manifest, = evrel('capture', disk, file('image'), '--computer', 'TKT-03', '--note', 'Before the season')
    expect([code, manifest['note'], manifest['computer']]).to eq([0, 'Before the season', { 'name' => 'TKT-03' }])

    code, found, = evrel('inspect', file('image'))
    expect([code, found['format']]).to eq([0, 'evrel-image'])
    expect(found['table']).to eq(evrel('inspect', disk)[1]['table'])

    expect(evrel('verify', file('image'))).to match([0, include('whole' => true, 'damaged' => 0), ''])

    target = sparse('target', File.size(disk))
    code, result, = evrel('restore', file('image'), target)
    expect([code, result['verified'], result['mismatches']]).to eq([0, true, []])
    expect(run('qemu-img', 'compare', disk, target)).to include('identical')
    expect(evrel('restore', file('image'), target, '--no-read-back')).to match([0, include('verified' => false, 'read_back' => false), ''])
  end

  it 'restores a disk that starts as its image does' do
    source = starting_disk
    evrel('capture', source, file('image'))
    target = sparse('target', 5 * (1024**3))
    expect(evrel('restore', file('image'), target).first).to eq(0)
    expect(evrel('startup', target)).to match([0, include('state' => 'ok'), ''])
    real_start!
    expect(evrel('try', target, '--command', 'cat /etc/hostname', '--expect', 'TKT-09'))
      .to match([0, include('outcome' => 'reached', 'answer' => /TKT-09/), ''])
  end

  it 'says why a disk would not start on its computer, mends that, and takes it back' do
    target = starting_disk
    change_startup(target) do |volume|
      run('mmd', '-i', volume, '::EFI/QUAY') && run('mmove', '-i', volume, '::EFI/BOOT/BOOTX64.EFI', '::EFI/QUAY/loader.efi')
    end
    File.write(file('computer.json'), '{"firmware": "uefi", "secure_boot": false}')
    code, chain, = evrel('startup', target, '--computer', file('computer.json'))
    expect([code, chain['steps'].last]).to match([1, include('id' => 'loader', 'mend' => 'fallback')])
    before = held(target)
    expect(evrel('mend', target, 'loader', '--dry')).to match([0, include('title' => /fallback/, 'places' => be_any), ''])
    expect(held(target)).to eq(before)
    code, done, = evrel('mend', target, 'loader')
    expect([code, done]).to match([0, include('mend' => 'fallback', 'state' => 'ok', 'record' => be_a(String))])
    expect(evrel('startup', target).first).to eq(0)
    expect(evrel('mend', target, '--undo', done['record'])).to match([0, include('state' => 'no'), ''])
    expect(evrel('mend', target, 'core')).to match([1, include('error' => 'Refused'), /image/])
    expect(evrel('startup', target, '--computer', file('nowhere')).first).to eq(2)
  end

  it 'plans, and restores by the plan' do
    target = sparse('target', 2 * (10**9) / 512 * 512)
    code, plan, = evrel('plan', image, target, '--grow', '2')
    expect([code, plan['valid'], plan['parts'].map { |part| part['change'] }]).to eq([0, true, ['as is', 'grows', 'moves']])
    expect(plan['parts'].last).to include('name' => 'Swap', 'how' => 'copy', 'size_bytes' => 32 * Disks::MIB)
    expect(File.stat(target).blocks).to eq(0)

    File.write(file('plan.json'), JSON.generate(plan))
    expect(evrel('restore', image, target, '--plan', file('plan.json'))).to match([0, include('verified' => true), ''])
    system = plan['parts'][1]
    expect(run('e2fsck', '-f', '-n', "#{target}?offset=#{system['start_bytes']}")).to include('System')
    expect(run('dumpe2fs', '-h', "#{target}?offset=#{system['start_bytes']}")[/Block count:\s+(\d+)/,
                                                                              1].to_i * 1024).to eq(system['size_bytes'])

    File.write(file('wish.json'), '{"way": "shrink", "leave_out": [3]}')
    small = sparse('small', 400 * Disks::MIB)
    expect(evrel('plan', image, small, '--wish', file('wish.json'))).to match([0, include('valid' => true), ''])
    expect(evrel('plan', image, small,
                 '--as-is')).to match([1, include('valid' => false, 'checks' => include(include('state' => 'no'))), ''])
    expect(evrel('restore', image, small, '--plan', file('plan.json'))).to match([1, include('error' => /DoesNotFit|Refused/), /./])
    expect(evrel('restore', image, small, '--plan', file('wish.json'))).to match([1, include('error' => 'Refused'), /is no plan/])
    expect(evrel('plan', image, small, '--grow', '2', '--shrink', '--what')).to match([2, nil, /invalid option/])
  end

  it 'answers a finding with exit code 1 and its reason' do
    flip(File.join(image, 'disk.qcow2'), 500_000)
    expect(evrel('verify', image)).to match([1, include('whole' => false, 'damaged' => be_positive), ''])
    expect(evrel('restore', image, sparse('small', 100 * Disks::MIB))).to match([1, include('error' => 'DoesNotFit'), /partition/])
    expect(evrel('startup', disk)).to match([1, include('state' => 'no'), ''])
    expect(evrel('try', disk, '--limit', '1', '--expect', 'never')).to match([1, include('outcome' => 'stuck'), ''])
  end

  it 'gives verdicts on disks, by the rules of the Target station' do
    blank = sparse('blank', File.size(disk))
    File.write(file('smart.json'), JSON.generate(StandIns::Smart.ata(hours: 1, temperature: 30, wear: 3)))
    code, found, = evrel('verdict', image, blank, disk, sparse('small', 100 * Disks::MIB))
    expect(code).to eq(0)
    expect(found['disks'].map { |one| one['state'] }).to eq(%w[clear ask refused])
    expect(found['disks'][1]).to include('decisions' => include('contents'), 'facts' => include(include('id' => 'of-image')))
    expect(found['disks'][2]['facts']).to include(include('id' => 'size', 'state' => 'no', 'evidence' => /capacity/))
    expect(evrel('verdict', image, File.join(image, 'disk.qcow2'))).to match([1, include('disks' => [include('state' => 'refused')]), ''])
    expect(evrel('verdict', image)[0]).to eq(2)
  end

  it 'answers misuse and what it cannot read with exit code 2' do
    [[], ['erase', disk], ['inspect'], ['verify', 'a', 'b'], ['try', disk, '--limit', 'soon'], ['inspect', disk, '--loud']].each do |words|
      code, out, err = evrel(*words)
      expect([code, out]).to eq([2, nil]), words.inspect
      expect(err).to include('Usage')
    end
    [['inspect', file('nowhere')], ['verify', file('nowhere')], ['restore', image, file('nowhere')],
     ['restore', image, @folder], ['startup', @folder], ['try', file('nowhere')]].each do |words|
      code, out, err = evrel(*words)
      expect([code, out['error']]).to eq([2, 'Unreadable']), words.inspect
      expect(err).not_to be_empty
    end
  end

  it 'overwrites no device' do
    expect(evrel('restore', image,
                 File::NULL)).to match([2, include('error' => 'Unreadable', 'message' => /not a regular file/), anything])
  end

  it 'writes an image onto many at once, and ends with 1 where one was not written' do
    disk = three_parts
    targets = Array.new(3) { |number| sparse("one-of-#{number}", File.size(disk)) }
    small = sparse('too-small', 20 * (1024**2))
    code, said = evrel('run', captured(disk), *targets, small)
    expect(code).to eq(1)
    expect(said['targets'].map { |one| one['written'] }).to eq([true, true, true, false])
    expect(said['targets'].last['error']).to include('message' => /too small|does not fit|has no room|lacks/)
    expect(targets.map { |path| evrel('inspect', path)[1].dig('table', 'guid') }.uniq.size).to eq(3)
    expect(evrel('run', file('image'), targets.first, targets.first)).to match([64, nil, /named twice/]).or match([2, nil, /named twice/])
  end

  it 'restores from a block device as it is, and only reads it' do
    skip 'only root has loop devices' unless Process.uid.zero?
    disk = three_parts
    before = run('sha256sum', disk)
    device = run('losetup', '--find', '--show', '--read-only', disk).strip
    target = sparse('target', File.size(disk))
    expect(evrel('inspect', device)).to match([0, include('format' => 'drive', 'size_bytes' => File.size(disk)), ''])
    expect(evrel('restore', device, target)).to match([0, include('verified' => true), //])
    expect(evrel('verify', device)).to match([1, include('error' => 'Refused'), /nothing to hold it against/])
    expect(evrel('restore', disk, device)).to match([1, include('error' => 'Refused'), /--label has to say/])
    expect(evrel('inspect', target)[1]['table']).to eq(evrel('inspect', disk)[1]['table'])
    expect(run('sha256sum', disk)).to eq(before)
  ensure
    system('losetup', '--detach', device) if device
  end

  # A file system of 8 MB.
  it 'says in one sentence what is missing where there is no room for an image, or for what is unpacked' do
    skip 'only root can mount' unless Process.uid.zero?
    disk = sparse('noise.raw', 32 * (1024**2))
    File.binwrite(disk, Random.new(2).bytes(20 * (1024**2)))
    run('xz', '-0', '-k', disk)
    tight = file('tight').tap { |folder| FileUtils.mkdir_p(folder) }
    run('mount', '-t', 'tmpfs', '-o', 'size=8m', 'tmpfs', tight)
    expect(evrel('capture', disk, "#{tight}/image"))
      .to match([1, hash_including('error' => 'DoesNotFit'), /\Aevrel: there is no room left: up to \d+ MB more/])
    expect(Dir.children(tight)).to be_empty
    kept = Evrel::Image::Kept.new(tight)
    expect { Evrel::Image.open("#{disk}.xz", kept:) }.to raise_error(Evrel::DoesNotFit, /no room left/)
  ensure
    system('umount', tight, err: File::NULL) if tight
  end
end
