# frozen_string_literal: true

RSpec.describe Evrel::Image::Live, 'as the source of a write' do
  # Remembers how often each cluster was read, and gives other bytes, or none, from the second time on.
  let(:watched) do
    Class.new(Evrel::Disk::Wrapper) do
      attr_reader :reads
      attr_accessor :unsteady, :dying

      def read_bytes(offset, length)
        number = offset / Evrel::Image::CLUSTER
        seen = (@reads ||= Hash.new(0))[number] += 1 if length == Evrel::Image::CLUSTER
        raise Evrel::Unreadable.new('input/output error', where: "byte #{offset}") if number == dying && seen.to_i > 1

        bytes = super
        bytes.setbyte(9, bytes.getbyte(9) ^ 1) if number == unsteady && seen.to_i > 1
        bytes
      end
    end
  end
  let(:disk) { three_parts }
  let(:target) { sparse('target', File.size(disk)) }
  let(:digests) { file('digests') }
  let(:journal_path) { file('journal') }
  # A cluster with the contents of a file.
  let(:place) do
    open_disk(disk) { |opened| (opened.extents.find { |offset, length| offset > 65 * Disks::MIB && length >= 2 * Disks::MIB }.first >> 16) + 8 }
  end

  def move(drive, uid: 'a drive', **options, &block)
    source = described_class.new(drive, uid:, taken_at: Time.now)
    source.keep_digests(Evrel::Image::FirstRead.new(digests, uid))
    open_disk(target, writable: true) do |opened|
      plan = Evrel::Layout.as_in_image(source, opened)
      journal = Evrel::Restore::Journal.new(journal_path, { image: uid })
      Evrel::Restore::Engine.new(image: source, target: opened, plan:, journal:, waits: [0.0], **options).run(&block)
    end
  ensure
    source&.close
  end

  def drive(**how) = watched.new(Evrel::Disk::File.open(disk)).tap { |one| how.each { |name, value| one.public_send(:"#{name}=", value) } }

  it 'is read once: what is written is held against the digests that were taken meanwhile' do
    read = drive
    expect(move(read)).to have_attributes(verified?: true)
    expect(run('qemu-img', 'compare', disk, target)).to include('identical')
    expect(read.reads[place]).to eq(1)
  end

  it 'proves what was read first, whatever the drive gives later' do
    expect(move(drive(unsteady: place))).to have_attributes(verified?: true)
    expect(run('qemu-img', 'compare', disk, target)).to include('identical')
  end

  it 'is found where it gives other bytes the second time, and the target gets no table' do
    expect { move(drive(unsteady: place), read_twice: true) }
      .to raise_error(Evrel::Restore::Trouble, /cluster #{place} .* gives other bytes the second time/) { |e|
            expect(e).to have_attributes(side: :source, kind: :damaged, cluster: place)
          }
    open_disk(target) { |opened| expect(Evrel::Table.read(opened)).to be_nil }
    decided = Evrel::Restore::Decisions.new(zeros: [place])
    expect(move(drive(unsteady: place).tap { |one| 2.times { one.read_bytes(place << 16, 65_536) } }, read_twice: true, decisions: decided))
      .to have_attributes(verified?: true)
    open_disk(target) { |opened| expect(opened.read(place << 16, 65_536).count("\0")).to eq(65_536) }
  end

  it 'goes by what was read first where a place cannot be read a second time' do
    expect(move(drive(dying: place), read_twice: true)).to have_attributes(verified?: true)
    expect(run('qemu-img', 'compare', disk, target)).to include('identical')
  end

  it 'goes on with the digests of a write that was cut off, and with none of another drive' do
    stop = ->(progress) { :stop if progress.written > 24 * Disks::MIB }
    expect { move(drive, &stop) }.to raise_error(Evrel::Stopped)
    kept = Evrel::Image::FirstRead.new(digests, 'a drive')
    known = Enumerator.new do |found|
      open_disk(disk) do |one|
        Evrel::Image::UsedMap.new(one).each_cluster do |index, _|
          found << index if kept.of(index)
        end
      end
    end
    expect(known.first(100).size).to eq(100)
    read = drive
    expect(move(read)).to have_attributes(verified?: true, resumed: true)
    expect(run('qemu-img', 'compare', disk, target)).to include('identical')
    first = known.first
    expect(Evrel::Image::FirstRead.new(digests, 'another').of(first)).to be_nil
  ensure
    kept&.close
  end

  it 'keeps them from several processes at once' do
    read = Evrel::Disk::File.open(disk)
    expect(read).to be_fork_safe
    expect(move(read)).to have_attributes(verified?: true)
    kept = Evrel::Image::FirstRead.new(digests, 'a drive')
    open_disk(disk) do |one|
      wrong = Evrel::Image::UsedMap.new(one).each_cluster.map { |index, _| index }.reject do |index|
        at = index << 16
        # Table and marks are no part of what is read as clusters of a part.
        at < Disks::MIB || at + 65_536 > one.size - 65_536 || kept.of(index) == Evrel::Image::Digests.of(one.read(at, 65_536))
      end
      expect(wrong).to eq([])
    end
  ensure
    kept&.close
  end

  it 'gives what it can of a cluster in which a sector cannot be read, where somebody decided so' do
    bad = (place << 16) + 1024
    faulty = -> { StandIns::Disk::Faulty.new(Evrel::Disk::File.open(disk), unreadable: [[bad, 512]]) }
    expect { move(faulty.call) }.to raise_error(Evrel::Restore::Trouble) { |e| expect(e).to have_attributes(kind: :unreadable, cluster: place) }
    result = move(faulty.call, decisions: Evrel::Restore::Decisions.new(zeros: [place]), read_twice: true)
    expect(result).to have_attributes(verified?: true, taken: [include(cluster: place, how: 'zeros')])
    ours, theirs = [disk, target].map { |path| open_disk(path) { |opened| opened.read(place << 16, 65_536) } }
    ours[1024, 512] = "\0" * 512
    expect(theirs == ours).to be(true)
  end

  it 'is read from a block device, which does not say where nothing was written: what no map speaks of is kept' do
    skip 'only root has loop devices' unless Process.uid.zero?
    # Smaller than its part by some megabytes.
    run('resize2fs', '-f', "#{disk}?offset=#{65 * Disks::MIB}", '390M')
    device = run('losetup', '--find', '--show', '--read-only', disk).strip
    opened = Evrel::Disk.at(device)
    expect(opened.extents.to_a).to eq([[0, opened.size]])
    expect(move(opened)).to be_verified
    expect(run('qemu-img', 'compare', '-f', 'raw', disk, target)).to include('identical')
  ensure
    system('losetup', '--detach', device) if device
  end

  it 'gives a write and an image of itself from one reading, each as it would be alone' do
    watching = drive
    source = described_class.new(watching, uid: 'a drive', taken_at: Time.now)
    source.keep_digests(Evrel::Image::FirstRead.new(digests, 'a drive'))
    # Little room: the write, which is faster, waits for the packing.
    shared = Evrel::Restore::SharedSource.new(source, 2, room: 24 * Disks::MIB, patience: 30)
    writing, taking = shared.readers
    result = nil
    threads = [
      Thread.new do
        open_disk(target, writable: true) do |opened|
          plan = Evrel::Layout.as_in_image(writing, opened)
          result = Evrel::Restore::Engine.new(image: writing, target: opened, plan:, waits: [0.0]).run
        end
      ensure
        writing.close
      end,
      Thread.new do
        open_disk(disk) { |own| Evrel::Image::Capture.new(own, file('kept'), shared: taking, tolerate_unread: true).run }
      ensure
        taking.close
      end
    ]
    threads.each(&:join)
    expect(result).to be_verified
    expect(run('qemu-img', 'compare', disk, target)).to include('identical')
    kept = Evrel::Image.open(file('kept'))
    expect(Evrel::Image::Check.new(kept).run).to be_whole
    again = sparse('again', File.size(disk))
    expect(restore(file('kept'), again)).to be_verified
    expect(run('qemu-img', 'compare', disk, again)).to include('identical')
    expect(watching.reads[place]).to eq(1)
    expect(shared.read).to be <= source.map.each_cluster.count * 1.05
  ensure
    kept&.close
    source&.close
  end
end
