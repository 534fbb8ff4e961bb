# frozen_string_literal: true

RSpec.describe Evrel::Restore do
  let(:disk) { three_parts }
  let(:image) { captured(disk) }
  let(:size) { File.size(disk) }

  # A drive that was used before: noise everywhere that matters.
  def used_drive(name, size)
    path = partitioned(name, size, "label: gpt\nsize=300M, name=\"old\"\n")
    open_disk(path, writable: true) do |target|
      [2, 66, 200, 400, 460].each { |at| target.write(at * Disks::MIB, Random.new(at).bytes(5 * Disks::MIB)) }
    end
    path
  end

  it 'makes the same disk of the same size, judged by other tools' do
    target = used_drive('target', size)
    result = restore(image, target)

    expect(result).to be_verified
    expect(run('qemu-img', 'compare', disk, target)).to include('identical')
    expect(content?('e2fsck', '-fn', "#{target}?offset=#{65 * Disks::MIB}")).to be(true)
  end

  it 'makes the same parts on a larger disk, with the backup table at its end' do
    target = used_drive('target', 3 * (10**9) / 512 * 512)
    expect(restore(image, target)).to be_verified

    expect(run('sgdisk', '-v', target)).to include('No problems found')
    expect(content?('sfdisk', '--verify', target)).to be(true)
    [[1, 64], [65, 400], [465, 32]].each do |start, length|
      ours = part_of(target, 'raw', start * Disks::MIB, length * Disks::MIB)
      theirs = part_of(File.join(image, 'disk.qcow2'), 'qcow2', start * Disks::MIB, length * Disks::MIB)
      expect(run('qemu-img', 'compare', ours, theirs)).to include('identical')
    end
  end

  it 'never changes the image' do
    before = Dir[File.join(image, '*')].to_h { |path| [path, OpenSSL::Digest::SHA256.file(path).hexdigest] }
    restore(image, sparse('target', size))
    expect(Dir[File.join(image, '*')].to_h { |path| [path, OpenSSL::Digest::SHA256.file(path).hexdigest] }).to eq(before)
  end

  it 'removes the old table first and writes the new one last' do
    target = used_drive('target', size)
    seen = []
    restore(image, target) do |progress|
      if seen.last&.first != progress.order
        seen << [progress.order,
                 content?('sgdisk', '-v', target) && run('sgdisk', '-p', target)[/\b(?:System|old)$/]]
      end
      nil
    end
    expect(seen.to_h).to include('check' => 'old', 'part-1' => nil, 'part-2' => nil, 'part-3' => nil, 'read-back' => nil)
    expect(run('sgdisk', '-p', target)).to match(/\bSystem$/)
  end

  it 'tells its progress in bytes, by order and part' do
    told = []
    restore(image, sparse('target', size)) { |progress| (told << progress.dup) && nil }
    expect(told.map(&:order).uniq).to eq(%w[check clear part-1 part-2 part-3 read-back table])
    expect(told.map(&:part).uniq).to eq([nil, 1, 2, 3])
    expect(told.map(&:written)).to eq(told.map(&:written).sort)
    expect(told.last.written).to eq(told.last.to_write)
    expect(told.map(&:speed)).to include(be > 10**6)
  end

  it 'stops before a damaged cluster and names it; the disk does not look whole' do
    flip(File.join(image, 'disk.qcow2'), 2_000_000)
    target = used_drive('target', size)
    expect { restore(image, target) }.to raise_error(Evrel::Error, /cluster \d+ of the image/)
    expect(open_disk(target) { |opened| Evrel::Table.read(opened) }).to be_nil
  end

  it 'refuses a smaller disk before anything is written' do
    target = sparse('target', 400 * Disks::MIB)
    File.binwrite(target, 'precious', 0)
    expect { restore(image, target) }.to raise_error(Evrel::DoesNotFit, /102 MB too small/)
    expect(File.binread(target, 8)).to eq('precious')
  end

  it 'writes nothing where the guard objects' do
    target = used_drive('target', size)
    before = held(target)
    guard = -> { raise Evrel::Refused, 'another drive' }
    expect { restore(image, target, guard:) }.to raise_error(Evrel::Refused, 'another drive')
    expect(held(target)).to eq(before)
  end

  it 'writes once more what the disk did not keep, and reads all of it again' do
    target = sparse('target', size)
    times = 0
    result = restore(image, target) do |progress|
      # Bits turn after they were written.
      flip(target, (66 * Disks::MIB) + 17) if progress.order == 'read-back' && (times += 1) == 1
      nil
    end
    expect(result).to have_attributes(verified?: true, rewritten: 1, mismatches: [])
    expect(run('qemu-img', 'compare', disk, target)).to include('identical')
  end

  it 'fails with the places where the disk does not keep them either time, and gives it no table' do
    target = sparse('target', size)
    result = restore(image, target, faults: { flips: [[(66 * Disks::MIB) + 17, 1]] })
    expect(result).to have_attributes(verified?: false, rewritten: 1)
    expect(result.mismatches).to eq([{ cluster: (66 * Disks::MIB) / Evrel::Image::CLUSTER, offset: 66 * Disks::MIB, part: 2 }])
    expect(open_disk(target) { |opened| Evrel::Table.read(opened) }).to be_nil
  end

  it 'finds a table that the disk did not keep' do
    result = restore(image, sparse('target', size), faults: { flips: [[size - 100, 1]] })
    expect(result.mismatches).to eq([{ cluster: nil, offset: size - (33 * 512), part: nil }])
  end

  it 'restores a disk without a table as a whole, its first cluster last' do
    whole = ext('whole', 40 * Disks::MIB, '-t', 'ext4')
    target = sparse('target', 60 * Disks::MIB)
    expect(restore(captured(whole, 'whole-image'), target)).to be_verified
    expect(run('qemu-img', 'compare', whole, target)).to include('identical')
  end

  describe 'with a journal' do
    let(:journal_path) { file('journal') }

    def journal(heading = { image: 'a' }) = Evrel::Restore::Journal.new(journal_path, heading)

    it 'goes on after it was stopped at any order, and ends byte for byte the same' do
      undisturbed = used_drive('undisturbed', size)
      restore(image, undisturbed)
      %w[clear part-1 part-2 part-3 table read-back].each do |order|
        target = used_drive("target-#{order}", size)
        FileUtils.rm_f(journal_path)
        expect { restore(image, target, journal:) { |progress| raise Interrupt if progress.order == order } }.to raise_error(Interrupt)
        last = nil
        result = restore(image, target, journal:) { |progress| last = progress }
        expect(result).to be_verified
        expect(last.earlier).to(%w[clear part-1].include?(order) ? eq(0) : be_positive)
        expect(same?(undisturbed, target)).to be(true), "stopped at #{order}"
      end
    end

    it 'is killed for good in the middle, and another process finishes it' do
      undisturbed = used_drive('undisturbed', size)
      restore(image, undisturbed)
      image # captured before the fork
      (Effort.all? ? 8 : 3).times do |seed|
        target = used_drive('target', size)
        FileUtils.rm_f(journal_path)
        kill_after(Random.new(seed).rand(0.0..0.25)) { restore(image, target, journal:) }
        expect(restore(image, target, journal:)).to be_verified
        expect(same?(undisturbed, target)).to be(true), "seed #{seed}"
        File.delete(target)
      end
    end

    def kill_after(seconds)
      pid = fork do
        yield
      ensure
        Process.exit!(0)
      end
      sleep seconds
      Process.kill(:KILL, pid)
      Process.wait(pid)
    end

    it 'stops where it is asked to, at a point from which it goes on' do
      target = sparse('target', size)
      expect { restore(image, target, journal:) { |progress| :stop if progress.order == 'part-2' && progress.done.positive? } }
        .to raise_error(Evrel::Stopped, /no partition table/)
      result = restore(image, target, journal:)
      expect(result).to be_verified
      expect(result.resumed).to be(true)
      expect(run('qemu-img', 'compare', disk, target)).to include('identical')
    end

    it 'writes everything again where the disk did not keep it' do
      target = sparse('target', size)
      expect(restore(image, target, journal:, faults: { flips: [[(66 * Disks::MIB) + 17, 1]] })).not_to be_verified
      expect(restore(image, target, journal:)).to be_verified
      expect(run('qemu-img', 'compare', disk, target)).to include('identical')
    end

    it 'belongs to one write' do
      journal.close
      expect { journal({ image: 'b' }) }.to raise_error(Evrel::Refused, /another write/)
    end

    it 'does not count a line that was cut' do
      journal.point('part-1', done: true)
      File.write(journal_path, '{"order":"part-2","do', mode: 'a')
      expect(journal).to have_attributes(resumed?: true)
      expect(journal.done?('part-1')).to be(true)
      expect(journal.done?('part-2')).to be(false)
    end
  end

  it 'carries out the orders that were shown, and no others' do
    target = sparse('shown', size)
    opened = Evrel::Image.open(image)
    open_disk(target, writable: true) do |to|
      plan = Evrel::Layout.as_in_image(opened, to)
      engine = -> { Evrel::Restore::Engine.new(image: opened, target: to, plan:) }
      orders = Evrel::Restore::Orders.for(opened, plan)
      others = orders.map(&:dup).tap { |all| all.last.title = 'Write another table' }
      [orders.drop(1), others].each do |shown|
        expect { engine.call.run(shown:) }.to raise_error(Evrel::Refused, /not those that were shown/)
      end
      expect(held(target)).to eq([])
      expect(engine.call.run(shown: orders)).to be_verified
    end
  end
end
