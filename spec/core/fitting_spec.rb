# frozen_string_literal: true

# Writing to another size, sector size and table, judged by the tools that
# each file system comes with.
RSpec.describe Evrel::Restore::Engine, 'of a layout that differs' do
  def mib = 1024**2

  # GPT with a FAT32, an ext4, and an NTFS recovery part behind it: 1.2 GB, of which about 50 MB are used.
  def with_recovery(name = 'station.raw')
    made_once('with-recovery', name) do |made|
      path = partitioned(made, 1_200_000_000 / 512 * 512, <<~SCRIPT)
        label: gpt
        size=100M, type=U, name="Start-up"
        size=900M, type=4F68BCE3-E8CD-4DB1-96E7-FBCAF984B709, name="System", uuid=11111111-2222-4333-8444-555555555555
        size=100M, type=DE94BBA4-06D1-4D40-A16A-BFD50179D6AC, name="Recovery"
      SCRIPT
      startup = fat("#{made}-startup", 100 * mib, 32)
      run('mmd', '-i', startup, '::loader', '::loader/entries')
      File.write(file('entry'), "title Station\noptions root=PARTUUID=11111111-2222-4333-8444-555555555555 ro\n")
      run('mcopy', '-i', startup, file('entry'), '::loader/entries/station.conf')
      copy_in(startup, path, mib)
      run('mke2fs', '-q', '-F', '-t', 'ext4', '-L', 'System', '-E', "offset=#{101 * mib}", '-d', system_tree, path, '900M')
      copy_in(recovery(made), path, 1001 * mib)
    end
  end

  def system_tree
    tree('etc/fstab' => "PARTUUID=11111111-2222-4333-8444-555555555555 / ext4 defaults 0 1\n",
         'data/noise.bin' => Random.new(3).bytes(20_000_000))
  end

  def recovery(name)
    path = sparse("#{name}-recovery", 100 * mib)
    run('mkntfs', '-F', '-Q', '-L', 'Recovery', '-p', (1001 * 2048).to_s, '-H', '255', '-S', '63', path)
    File.binwrite(file('restore.img'), Random.new(4).bytes(5_000_000))
    run('ntfscp', '-f', path, file('restore.img'), 'restore.img')
    path
  end

  let(:disk) { with_recovery }
  let(:image) { captured(disk) }
  let(:target) { sparse('target.raw', 2_400_000_000 / 512 * 512) }

  def fitted(wish, path = target, sector: 512, **options, &progress)
    open_disk(path, writable: true, logical_sector: sector) do |to|
      opened = Evrel::Image.open(image)
      plan = Evrel::Layout::Planner.new(Evrel::Layout::Source.of(opened), Evrel::Layout::Target.of(to), wish).plan.valid!
      described_class.new(image: opened, target: to, plan:, scratch: Evrel::Restore::Scratch.new(file('scratch')),
                          **options).run(&progress)
    ensure
      opened&.close
    end
  end

  def parts(path = target, sector: 512)
    open_disk(path, logical_sector: sector) { |to| Evrel::Table.read(to).partitions.sort_by(&:first_lba) }
  end

  def cut_out(part, path = target)
    file("part-#{part.number}").tap do |out|
      run('dd', "if=#{path}", "of=#{out}", 'bs=64K', "skip=#{part.start}", "count=#{part.size}", 'iflag=skip_bytes,count_bytes',
          'conv=sparse', 'status=none')
      File.truncate(out, part.size)
    end
  end

  # Every part by its own tool; the table by two.
  def judge(path = target)
    expect(run('sfdisk', '--verify', path)).to include('No errors detected')
    expect(run('sgdisk', '-v', path)).to include('No problems found')
    startup, system, recovery = parts(path)
    run('fsck.vfat', '-n', cut_out(startup, path))
    run('e2fsck', '-f', '-n', "#{path}?offset=#{system.start}")
    run('ntfsresize', '-i', '-f', cut_out(recovery, path)) if recovery
  end

  def blocks_of(part, path = target) = run('dumpe2fs', '-h', "#{path}?offset=#{part.start}")[/Block count:\s+(\d+)/, 1].to_i

  def file_in(part, name, path = target)
    out = file('out')
    run('debugfs', '-R', "dump #{name} #{out}", "#{path}?offset=#{part.start}")
    File.binread(out)
  end

  it 'grows the system, with the recovery part at the new end' do
    expect(fitted({ 'way' => 'grow', 'part' => 2 })).to be_verified
    judge
    startup, system, recovery = parts
    expect(blocks_of(system) * 4096).to eq(system.size)
    expect(recovery.end).to be_within(2 * mib).of(2_400_000_000)
    expect(file_in(system, 'data/noise.bin')).to eq(Random.new(3).bytes(20_000_000))
    expect([startup, recovery].map { |part| File.binread(target, 4, part.start + 28).unpack1('V') }).to eq([0, recovery.first_lba])
    spare(recovery)
  end

  it 'shrinks the system in the scratch room, and leaves the image as it was' do
    before = held(File.join(image, 'clusters.b3'))
    small = sparse('small.raw', 600_000_000 / 512 * 512)
    expect(fitted({ 'way' => 'shrink' }, small)).to be_verified
    judge(small)
    system = parts(small)[1]
    expect(system.size).to be < 450 * mib
    expect(blocks_of(system, small) * 4096).to eq(system.size)
    expect(file_in(system, 'data/noise.bin', small)).to eq(Random.new(3).bytes(20_000_000))
    expect(held(File.join(image, 'clusters.b3'))).to eq(before)
  end

  it 'shrinks and grows NTFS, and makes FAT anew with the same files' do
    wish = { 'way' => 'by_hand',
             'parts' => { '1' => { 'size' => 200 * mib }, '2' => { 'start' => 300 * mib },
                          '3' => { 'start' => 1400 * mib, 'size' => 40 * mib } } }
    expect(fitted(wish)).to be_verified
    judge
    startup, _, recovery = parts
    spare(recovery)
    expect(run('ntfscat', '-f', cut_out(recovery), 'restore.img').b).to eq(Random.new(4).bytes(5_000_000))
    run('mcopy', '-n', '-i', cut_out(startup), '::deep/er/A long name for a file.bin', file('copied'))
    expect(File.binread(file('copied'))).to eq(Random.new(32).bytes(200_000))
    expect(File.binread(target, 4, startup.start + 28).unpack1('V')).to eq(startup.first_lba)

    fitted({ 'way' => 'by_hand', 'parts' => { '3' => { 'start' => 1400 * mib, 'size' => 500 * mib } } })
    expect(run('ntfsresize', '-i', '-f', cut_out(parts[2]))).to match(/Current volume size: 5242\d+ bytes/)
    spare(parts[2])
  end

  # NTFS keeps a copy of its boot sector in its last sector; both say where the partition lies.
  def spare(part)
    boot = File.binread(target, 512, part.start)
    expect(boot.byteslice(28, 4).unpack1('V')).to eq(part.first_lba)
    expect(File.binread(target, 512, part.end - 512)).to eq(boot)
  end

  it 'writes onto sectors of 4096 bytes' do
    large = sparse('large.raw', 2_400_000_000 / 4096 * 4096)
    # NTFS that counts in 512 bytes cannot live there: it is named, and left out.
    expect do
      fitted({ 'way' => 'shrink' }, large, sector: 4096)
    end.to raise_error(Evrel::DoesNotFit, /Recovery cannot live on sectors of 4096/)
    expect(fitted({ 'way' => 'grow', 'part' => 2, 'leave_out' => [3] }, large, sector: 4096)).to be_verified
    expect(run('fdisk', '-b', '4096', large, input: "v\nq\n")).to include('No errors detected')
    startup, system = parts(large, sector: 4096)
    run('fsck.vfat', '-n', cut_out(startup, large))
    expect(File.binread(large, 2, startup.start + 11).unpack1('v')).to eq(4096)
    run('e2fsck', '-f', '-n', "#{large}?offset=#{system.start}")
  end

  it 'gives new identities, and rewrites what names the old ones' do
    fitted({ 'way' => 'grow', 'part' => 2, 'identity' => 'renew' })
    judge
    startup, system = parts
    expect(system.guid).not_to start_with('11111111')
    expect(file_in(system, 'etc/fstab')).to eq("PARTUUID=#{system.guid} / ext4 defaults 0 1\n")
    run('mcopy', '-n', '-i', cut_out(startup), '::loader/entries/station.conf', file('copied'))
    expect(File.read(file('copied'))).to include("PARTUUID=#{system.guid} ro")
  end

  # What is started is named by place on an MBR, by identity on a GPT.
  describe 'with a store that names its partition' do
    let(:disk) { store_disk(firmware) }

    def root = open_disk(target) { |to| Evrel::Startup.chain(to, 'firmware' => firmware.to_s) }.find { |step| step.id == 'root' }
    def moved = { 'way' => 'by_hand', 'parts' => { (firmware == :bios ? '1' : '2') => { 'start' => 600 * mib } } }

    %i[uefi bios].each do |kind|
      context "by #{kind}" do
        let(:firmware) { kind }

        it 'tells the store where the partition went, and what it is called now' do
          [moved, { 'identity' => 'renew' }, moved.merge('identity' => 'renew')].each do |wish|
            fitted(wish)
            expect(root.state).to eq(:ok)
          end
          fitted(moved.merge('identity' => 'renew', 'rewrite' => false))
          expect(root.state).to eq(:no)
        end

        it 'leaves it alone where the partition stays what and where it was' do
          fitted({ 'way' => 'as_in_image' })
          expect(run('cmp', '-n', (190 * mib).to_s, '-i', mib.to_s, disk, target)).to be_empty
        end
      end
    end

    context 'from an MBR to a GPT' do
      let(:firmware) { :bios }

      it 'tells it the new name' do
        fitted({ 'way' => 'as_in_image', 'table' => 'gpt' })
        store, part = open_disk(target) do |to|
          table = Evrel::Table.read(to)
          [Evrel::Startup::BootStore.new(Evrel::Volume.recognise(table.partitions.first.window(to)).file_head('/Boot/BCD', mib)),
           table.partitions.first]
        end
        expect(store.devices.map(&:guid).uniq).to eq([part.guid])
      end
    end
  end

  it 'ends byte for byte alike, wherever it is killed' do
    wish = { 'way' => 'by_hand', 'parts' => { '2' => { 'size' => 1200 * mib }, '3' => { 'start' => 1500 * mib, 'size' => 60 * mib } } }
    fitted(wish)
    undisturbed = held(target)
    %w[prepare-3 prepare-4 part-2 part-4 read-back table].each do |order|
      other = sparse("killed-#{order}.raw", 2_400_000_000 / 512 * 512)
      journal = -> { Evrel::Restore::Journal.new(file("journal-#{order}"), { write: order }) }
      expect do
        fitted(wish, other, journal: journal.call) do |progress|
          raise Interrupt if progress.order == order
        end
      end.to raise_error(Interrupt)
      fitted(wish, other, journal: journal.call)
      expect(held(other)).to eq(undisturbed)
    end
  end

  # A computer that crashed: a block of a file waits in the journal.
  describe 'of a system that was not shut down' do
    let(:disk) do
      made_once('crashed', 'crashed.raw') do |made|
        path = partitioned(made, 1_200_000_000 / 512 * 512, "label: gpt\nsize=100M, type=U\nsize=900M, type=L, name=\"System\"\n")
        volume = sparse("#{made}-system", 900 * mib)
        run('mke2fs', '-q', '-F', '-t', 'ext4', '-d', system_tree, volume)
        block = run('debugfs', '-R', 'blocks data/noise.bin', volume)[/^(\d+)/, 1]
        File.write(file('news'), 'tide table of the morning'.ljust(4096, '.'))
        File.write(file('commands'), "journal_open\njournal_write -b #{block} #{file('news')}\njournal_close\n")
        run('debugfs', '-w', '-f', file('commands'), volume)
        copy_in(volume, path, 101 * mib)
      end
    end

    def replayed(path)
      system = parts(path)[1]
      run('e2fsck', '-f', '-n', cut_out(system, path))
      expect(blocks_of(system, path) * 4096).to eq(system.size)
      expect(file_in(system, 'data/noise.bin', path)).to start_with('tide table of the morning')
    end

    it 'is replayed and grown before anything is written' do
      expect(open_disk(disk) { |one| Evrel::Image::UsedMap.new(one).parts.map { |part| part.volume.clean? } }).to eq([nil, false])
      result = fitted({ 'way' => 'grow', 'part' => 2 })
      expect([result.verified?, result.not_grown, result.orders.map(&:id)])
        .to match([true, {}, start_with('check', 'prepare-3', 'clear')])
      replayed(target)
    end

    it 'is replayed and shrunk in the scratch room' do
      small = sparse('small.raw', 700_000_000 / 512 * 512)
      expect(fitted({ 'way' => 'shrink' }, small)).to be_verified
      replayed(small)
    end
  end

  # One whose tools find what they do not mend by themselves: a root directory that is none.
  it 'leaves a part at its size that cannot be grown, says why, and gives the disk its table' do
    run('debugfs', '-w', '-R', 'set_inode_field <2> mode 0', "#{disk}?offset=#{101 * mib}")
    result = fitted({ 'way' => 'grow', 'part' => 2 })
    expect(result).to be_verified
    expect(result.not_grown).to match(2 => /e2fsck could not do it/)
    expect(run('sgdisk', '-v', target)).to include('No problems found')
    expect(blocks_of(parts[1]) * 4096).to eq(900 * mib)
    expect(run('cmp', '-n', (900 * mib).to_s, '-i', (101 * mib).to_s, disk, target)).to be_empty
  end

  it 'says which cluster of the image is not what it was, where growing needs it' do
    wish = { 'way' => 'grow', 'part' => 2 }
    image
    allow(Evrel::Image::Digests).to receive(:of).and_wrap_original do |of, data|
      data.include?('System') && data.byteslice(1024 + 56, 2) == "\x53\xEF".b ? 'x' * 32 : of.call(data)
    end
    expect { fitted(wish) }.to raise_error(Evrel::Restore::Trouble, /does not match its digest/) { |error| expect(error.part).to eq(2) }
    expect(File.stat(target).blocks).to be_zero
  end

  it 'gives no table to a disk that does not read back' do
    open_disk(target, writable: true) do |to|
      bad = StandIns::Disk::Faulty.new(to, flips: [[101 * mib, 4096]])
      opened = Evrel::Image.open(image)
      plan = Evrel::Layout.as_in_image(opened, to)
      result = described_class.new(image: opened, target: bad, plan:).run
      expect(result.mismatches).not_to be_empty
      expect(Evrel::Table.read(to)).to be_nil
    end
  end

  it 'refuses before anything is written where the scratch room is too small' do
    small = sparse('small.raw', 600_000_000 / 512 * 512)
    allow(Evrel::Linux::FreeSpace).to receive(:of).and_return([mib, 10**12])
    expect { fitted({ 'way' => 'shrink' }, small) }.to raise_error(Evrel::DoesNotFit, /scratch room lacks/)
    expect(held(small)).to be_empty
  end

  it 'refuses before anything is written where the scratch room may not take so much, with what lies there' do
    small = sparse('small.raw', 600_000_000 / 512 * 512)
    rooms = [400, 20].map { |most| Evrel::Restore::Scratch.new(file('rooms/one'), most: most * mib) }
    FileUtils.mkdir_p(file('rooms/other'))
    File.binwrite(file('rooms/other/part-1.raw'), 'x' * mib)
    opened = Evrel::Image.open(image)
    open_disk(small) do |to|
      plan = Evrel::Layout::Planner.new(Evrel::Layout::Source.of(opened), Evrel::Layout::Target.of(to), { 'way' => 'shrink' }).plan.valid!
      expect { rooms.first.check_room(plan) }.not_to raise_error
      expect { rooms.last.check_room(plan) }.to raise_error(Evrel::DoesNotFit, /the scratch room may take 21 MB: 1 MB are taken/)
    end
  ensure
    opened&.close
  end

  it 'says that the scratch room has filled, and goes on when there is room' do
    small = sparse('small.raw', 600_000_000 / 512 * 512)
    journal = -> { Evrel::Restore::Journal.new(file('journal'), { image: 'a' }) }
    narrow(8) do
      expect { fitted({ 'way' => 'shrink' }, small, journal: journal.call) }
        .to raise_error(Evrel::Restore::Trouble, /scratch room is full/) { |said| expect(said).to have_attributes(side: :scratch, kind: :full, part: 2) }
      expect(Dir[file('scratch/*')]).to be_empty
    end
    expect(held(small)).to be_empty
    expect(fitted({ 'way' => 'shrink' }, small, journal: journal.call)).to be_verified
  end

  # A scratch room of so many MiB, which nobody knew before.
  def narrow(mebibytes)
    told = [100 * (1024**3)]
    allow(Evrel::Linux::FreeSpace).to(receive(:of).and_wrap_original { |of, folder| told.any? ? [told.shift, 10**12] : of.call(folder) })
    FileUtils.mkdir_p(file('scratch'))
    run('mount', '-t', 'tmpfs', '-o', "size=#{mebibytes}m", 'tmpfs', file('scratch'))
    yield
  ensure
    run('umount', file('scratch'))
  end

  describe 'of one part' do
    # A disk in use: the station's own, with other data in a fourth partition.
    def in_use
      with_recovery('in-use.raw').tap do |path|
        File.truncate(path, 2_400_000_000 / 512 * 512)
        run('sgdisk', '-e', '-n', '4:1200M:+200M', '-c', '4:Logs', '-u', '4:99999999-2222-4333-8444-555555555555', path)
        copy_in(ext('logs', 200 * mib, '-L', 'Logs'), path, 1200 * mib)
        File.binwrite(path, Random.new(9).bytes(3 * mib), 400 * mib)
      end
    end

    # What lies in partitions of these numbers.
    def digests(path, *numbers)
      parts(path).select { |part| numbers.include?(part.number) }.map { |part| held(path, from: part.start, below: part.end) }
    end

    it 'goes over a partition and leaves its neighbours byte for byte' do
      path = in_use
      before = digests(path, 1, 3, 4)
      gap = File.binread(path, 90 * mib, 1105 * mib)
      expect(fitted({ 'way' => 'part', 'part' => 2, 'over' => 2 }, path)).to be_verified
      expect(digests(path, 1, 3, 4)).to eq(before)
      expect(File.binread(path, 90 * mib, 1105 * mib)).to eq(gap)
      judge(path)
      expect(file_in(parts(path)[1], 'data/noise.bin', path)).to eq(Random.new(3).bytes(20_000_000))
    end

    it 'goes into free room under a number and an identity of its own' do
      path = in_use
      before = digests(path, 1, 2, 3, 4)
      fitted({ 'way' => 'part', 'part' => 2, 'at' => 1450 * mib, 'size' => 600 * mib }, path)
      expect(digests(path, 1, 2, 3, 4)).to eq(before)
      fifth = parts(path).last
      expect(fifth).to have_attributes(number: 5, start: 1450 * mib, size: 600 * mib)
      expect(parts(path).map(&:guid).uniq.size).to eq(5)
      run('e2fsck', '-f', '-n', "#{path}?offset=#{fifth.start}")
    end

    it 'is refused where it would touch another, or has no room' do
      path = in_use
      expect do
        fitted({ 'way' => 'part', 'part' => 2, 'at' => 1050 * mib }, path)
      end.to raise_error(Evrel::DoesNotFit, /overlaps partition 3/)
      expect { fitted({ 'way' => 'part', 'part' => 2, 'over' => 9 }, path) }.to raise_error(Evrel::Refused, /over names partition 9/)
      expect do
        fitted({ 'way' => 'part', 'part' => 2, 'over' => 2, 'size' => 10 * mib }, path)
      end.to raise_error(Evrel::DoesNotFit, /too small/)
    end
  end
end
