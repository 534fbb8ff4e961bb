# frozen_string_literal: true

RSpec.describe Evrel::Restore, 'when something fails' do
  let(:mib) { Disks::MIB }
  let(:disk) { three_parts }
  let(:image) { captured(disk) }
  let(:size) { File.size(disk) }
  let(:target) { sparse('target', size) }
  let(:qcow2) { File.join(image, 'disk.qcow2') }
  # Where the contents of a file lie on the disk.
  let(:data_at) { open_disk(disk) { |opened| opened.extents.find { |offset, length| offset > 65 * mib && length >= 2 * mib }.first + mib } }

  def journal = Evrel::Restore::Journal.new(file('journal'), { image: 'a' })
  def whole = expect(run('qemu-img', 'compare', disk, target)).to include('identical')
  def table = open_disk(target) { |opened| Evrel::Table.read(opened) }

  # @return [Evrel::Restore::Trouble]
  def trouble(**options, &block)
    restore(image, target, journal:, **options, &block)
    raise 'it went well'
  rescue Evrel::Restore::Trouble => e
    expect(table).to be_nil
    e
  end

  describe 'at the target' do
    it 'asks again where one operation in four fails, and says how often' do
      result = restore(image, target, faults: { hiccups: 4 })
      expect(result).to be_verified
      expect(result.retries[:target]).to be_positive
      whole
    end

    it 'never asks again for what could not be written out: that would be forgotten' do
      flushes = 0
      failing = Class.new(Evrel::Disk::Wrapper) do
        define_method(:flush) do
          raise Evrel::Unreadable.new('input/output error', where: 'flush') if (flushes += 1) == 3

          super()
        end
      end
      attempt = lambda do
        open_disk(target, writable: true) do |opened|
          source = Evrel::Image.open(image)
          plan = Evrel::Layout.as_in_image(source, opened)
          Evrel::Restore::Engine.new(image: source, target: failing.new(opened), plan:, journal:, waits: [0.0, 0.0]).run
        ensure
          source&.close
        end
      end
      expect { attempt.call }.to raise_error(Evrel::Restore::Trouble) { |e| expect(e).to have_attributes(side: :target, kind: :unwritable) }
      expect(flushes).to eq(3)
      expect(attempt.call).to have_attributes(verified?: true, resumed: true)
      whole
    end

    it 'stops at a spot that takes nothing, names it, and goes on when it does' do
      said = trouble(faults: { unwritable: [[data_at + 5000, 512]] })
      expect(said).to have_attributes(side: :target, kind: :unwritable, offset: data_at + 5000, message: /input.output error/)
      expect(restore(image, target, journal:)).to have_attributes(verified?: true, resumed: true)
      whole
    end

    it 'stops where it takes nothing more from some point on' do
      expect(trouble(faults: { wears_out_after: 3 * mib })).to have_attributes(side: :target, kind: :unwritable)
      expect(restore(image, target, journal:)).to be_verified
      whole
    end

    it 'stops at once where it is gone, without asking again' do
      began = Process.clock_gettime(Process::CLOCK_MONOTONIC)
      expect(trouble(faults: { gives_out_after: 6 * mib }, waits: [30.0])).to have_attributes(side: :target, kind: :away)
      expect(Process.clock_gettime(Process::CLOCK_MONOTONIC) - began).to be < 20
      expect(restore(image, target, journal:)).to be_verified
      whole
    end

    it 'stops where it cannot be read back' do
      expect(trouble(faults: { unreadable: [[data_at, 512]] })).to have_attributes(side: :target, kind: :unreadable, offset: data_at)
      expect(restore(image, target, journal:)).to be_verified
    end

    it 'finds out a drive that is smaller than it says, and gives it no table' do
      # What belongs behind its true end lands at its beginning.
      result = restore(image, target, faults: { true_capacity: 64 * mib })
      expect(result).not_to be_verified
      expect(result.mismatches.size).to be > 10
      expect(table).to be_nil
    end

    it 'says where a write was cut short by the system' do
      path = sparse('limited', 8 * mib)
      pid = fork do
        trap('XFSZ', 'IGNORE')
        Process.setrlimit(:FSIZE, 3 * mib)
        open_disk(path, writable: true) { |opened| opened.write(2 * mib, 'x' * (2 * mib)) }
        exit!(0)
      rescue Evrel::Unreadable => e
        File.write(file('said'), "#{e.message} #{e.where}")
        exit!(3)
      end
      Process.wait(pid)
      expect(File.read(file('said'))).to match(/cannot be written: file too large byte #{2 * mib}/)
      expect(File.binread(path, mib, 2 * mib)).to eq('x' * mib)
    end
  end

  describe 'at the source' do
    # The cluster that byte 2,000,000 of the image's file belongs to.
    let(:damaged) do
      image
      flip(qcow2, 2_000_000)
      trouble.cluster
    end

    it 'names a damaged cluster with its part, after it was read twice' do
      image
      flip(qcow2, 2_000_000)
      expect(trouble).to have_attributes(side: :source, kind: :damaged, part: be_between(1, 3), message: /cluster \d+ of the image/)
    end

    it 'goes on with the cluster of another image whose digest matches' do
      second = file('second')
      run('cp', '-r', image, second)
      damaged
      other = Evrel::Image.open(second)
      result = restore(image, target, journal:, decisions: Evrel::Restore::Decisions.new(others: [other]))
      expect(result).to be_verified
      expect(result.taken).to eq([{ cluster: damaged, part: 2, how: other.manifest.id }])
      whole
    end

    it 'takes nothing from an image that has something else there' do
      damaged
      with(three_parts('other.raw')) { |opened| opened.write(damaged * Evrel::Image::CLUSTER, 'changed' * 100) }
      other = Evrel::Image.open(captured(file('other.raw'), 'other-image'))
      expect(trouble(decisions: Evrel::Restore::Decisions.new(others: [other]))).to have_attributes(cluster: damaged)
    end

    def with(path, &) = open_disk(path, writable: true, &)

    it 'leaves zeros where that was decided, and nowhere else' do
      damaged
      result = restore(image, target, journal:, decisions: Evrel::Restore::Decisions.new(zeros: [damaged]))
      expect(result).to be_verified
      expect(result.taken).to eq([{ cluster: damaged, part: 2, how: 'zeros' }])
      expect(File.binread(target, Evrel::Image::CLUSTER, damaged * Evrel::Image::CLUSTER).count("\0")).to eq(Evrel::Image::CLUSTER)
      open_disk(target, writable: true) do |opened|
        opened.write(damaged * Evrel::Image::CLUSTER, File.binread(disk, Evrel::Image::CLUSTER, damaged * Evrel::Image::CLUSTER))
      end
      whole
    end

    it 'leaves zeros wherever a part is damaged, and takes no lost write for one of them' do
      first = damaged
      flip(qcow2, 2_500_000)
      journal.point('part-2', again: true)
      sound = (data_at / Evrel::Image::CLUSTER) + 3
      wiped = false
      result = restore(image, target, journal:, decisions: Evrel::Restore::Decisions.new(zeros_in: [2])) do |progress|
        next if wiped || progress.order != 'read-back'

        wiped = true
        File.write(target, Evrel::Image::Capture::ZEROS, sound * Evrel::Image::CLUSTER)
      end
      expect(result).to have_attributes(verified?: true, rewritten: 1)
      expect(result.taken.map { |one| one[:cluster] }.uniq).to include(first).and(have_attributes(size: 2))
      expect(result.taken.map { |one| one[:how] }.uniq).to eq(['zeros'])
    end

    it 'goes on without a part, whose place stays empty' do
      damaged
      result = restore(image, target, journal:, decisions: Evrel::Restore::Decisions.new(without: [2]))
      expect(result).to have_attributes(verified?: true, without: [2])
      expect(table.partitions.size).to eq(3)
      expect(run('fsck.vfat', '-n', part_of(target, 1))).to include('files')
    end

    def part_of(path, number)
      part = open_disk(path) { |opened| Evrel::Table.read(opened).partitions[number - 1] }
      run('dd', "if=#{path}", "of=#{file('cut')}", 'bs=1M', "skip=#{part.start / mib}", "count=#{part.size / mib}", 'status=none')
      file('cut')
    end

    it 'stops where the image ends in the middle, and goes on when it is whole again' do
      image
      run('cp', qcow2, file('kept'))
      # It was opened, and planned with, before its end went.
      opened = Evrel::Image.open(image)
      plan = open_disk(target) { |to| Evrel::Layout.as_in_image(opened, to) }
      File.truncate(qcow2, 1_500_000)
      said = begin
        open_disk(target, writable: true) do |to|
          Evrel::Restore::Engine.new(image: opened, target: to, plan:, journal:, waits: [0.0]).run
        end
      rescue Evrel::Restore::Trouble => e
        e
      end
      expect(said).to have_attributes(side: :source, kind: :unreadable, message: /ends early/)
      run('cp', file('kept'), qcow2)
      expect(restore(image, target, journal:)).to be_verified
      whole
    end
  end

  describe 'on a web shelf' do
    let(:shelf) { Evrel::Shelf::Web.new(served(@folder), networks: ['127.0.0.1']) }

    def from_web(**options)
      opened = Evrel::Image.at(shelf, 'image')
      plan = open_disk(target) { |to| Evrel::Layout.as_in_image(opened, to) }
      yield if block_given?
      open_disk(target, writable: true) do |to|
        Evrel::Restore::Engine.new(image: opened, target: to, plan:, journal:, waits: [0.05, 0.2], **options).run
      end
    ensure
      opened&.close
    end

    before { image }

    it 'rides out answers that break off in the middle' do
      expect(from_web { misbehave(@folder, drop_every: 3) }).to be_verified
      whole
    end

    it 'stops when nobody is let in any more, and goes on when that is over' do
      expect { from_web { misbehave(@folder, lost_password: true) } }.to raise_error(Evrel::Restore::Trouble) { |error|
        expect(error).to have_attributes(side: :source, kind: :unreadable)
      }
      misbehave(@folder)
      expect(from_web).to be_verified
      whole
    end

    it 'stops where the file is changed under it, and writes nothing of the other' do
      expect { from_web { FileUtils.touch(qcow2, mtime: Time.now + 60) } }.to raise_error(Evrel::Restore::Trouble, /changed/)
      expect(table).to be_nil
    end
  end

  describe 'writing only what differs' do
    before do
      restore(image, target)
      open_disk(target, writable: true) do |to|
        to.write(data_at + 123_456, 'infected')
        to.write(300 * mib, Random.new(1).bytes(mib)) # in room that the image does not use
      end
    end

    it 'spares what is there, writes what is not, and empties the rest' do
      result = restore(image, target, skip_identical: true)
      expect(result).to be_verified
      expect(result.orders.sum(&:moved)).to be < 4 * mib
      expect(result.spared).to eq(result.written - result.orders.sum(&:moved))
      whole
    end

    it 'leaves unused room as it is where that is wished, and zeroes it where that is' do
      restore(image, target, skip_identical: true, unused: 'leave')
      expect(File.binread(target, mib, 300 * mib)).to eq(Random.new(1).bytes(mib))
      result = restore(image, target, unused: 'zero')
      expect(result).to be_verified
      whole
    end

    it 'ends alike when it is stopped in the middle' do
      stop = proc { |progress| :stop if progress.order == 'part-2' && progress.done.positive? }
      expect { restore(image, target, journal:, skip_identical: true, &stop) }.to raise_error(Evrel::Stopped)
      expect(restore(image, target, journal:, skip_identical: true)).to be_verified
      whole
    end

    it 'writes zeros over old data on a drive that promises nothing about what it discards' do
      open_disk(target, writable: true) { |to| to.write(0, Random.new(2).bytes(2 * mib)) }
      keeping = Class.new(Evrel::Disk::Wrapper) do
        def discards_to_zero? = false
        def discard_bytes(_offset, _length) = nil
        def zero_bytes(offset, length) = write_bytes(offset, "\0".b * length)
        def extents = block_given? ? yield(0, size) : [[0, size]].each
      end
      open_disk(target, writable: true) do |to|
        opened = Evrel::Image.open(image)
        File.write(target, 'stale' * 100_000, 65 * mib) # where the image has zeros in use, among others
        engine = Evrel::Restore::Engine.new(image: opened, target: keeping.new(to), plan: Evrel::Layout.as_in_image(opened, to))
        expect(engine.run).to be_verified
        run('e2fsck', '-fn', "#{target}?offset=#{65 * mib}")
      end
    end
  end

  it 'refuses options that are none' do
    expect { restore(image, target, unused: 'burn') }.to raise_error(Evrel::Refused, /burn/)
  end
end
