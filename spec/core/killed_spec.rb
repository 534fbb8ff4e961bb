# frozen_string_literal: true

RSpec.describe Evrel::Restore, 'killed', :in_memory do
  include TinyDisk

  # A disk under whose hands the process is killed: at one of its operations, in
  # the middle of it.
  let(:deadly) do
    Class.new(Evrel::Disk::Wrapper) do
      def initialize(disk, operations)
        super(disk)
        @left = operations
        @lock = Mutex.new # safe points are made on a thread beside
      end

      attr_reader :left

      def write_bytes(offset, data)
        last = last?
        @disk.write(offset, last ? data.byteslice(0, data.bytesize / 1024 * 512) : data)
        Process.kill(:KILL, Process.pid) if last
      end

      def discard_bytes(offset, length)
        Process.kill(:KILL, Process.pid) if last?
        @disk.discard(offset, length)
      end

      def flush
        Process.kill(:KILL, Process.pid) if last?
        @disk.flush
      end

      def last? = @lock.synchronize { (@left -= 1).zero? }
    end
  end

  def journal(name) = Evrel::Restore::Journal.new(file(name), { write: 1 })

  # Bytes between two safe points: there have to be some on a small disk.
  before { stub_const('Evrel::Restore::SafePoints::EVERY', Disks::MIB) }

  # @return [Integer] how many operations an undisturbed write needs
  def operations
    counted = nil
    write_tiny(used_tiny('counted', 0), wrap: ->(disk) { counted = deadly.new(disk, 1 << 40) })
    (1 << 40) - counted.left
  end

  places = Effort.all? ? 48 : 12

  it "at #{places + 12} points, the last ones before and within the table among them, ends byte for byte like an undisturbed write" do
    write_tiny(undisturbed = used_tiny('undisturbed', 0))
    all = operations
    # The table comes last: its writes, its flush, and the end of the last part before it.
    points = ((all - 11)..all).to_a + Random.new(60).then { |random| Array.new(places) { random.rand(1..(all - 12)) } }
    points.each_with_index do |point, seed|
      target = used_tiny("target-#{seed}", 0)
      killed { write_tiny(target, journal: journal("journal-#{seed}"), wrap: ->(disk) { deadly.new(disk, point) }) }
      expect(write_tiny(target, journal: journal("journal-#{seed}"))).to be_verified
      expect(same?(undisturbed, target)).to be(true), "killed at operation #{point} of #{all}"
      File.delete(target)
    end
  end

  # Eight at once from one reading, one of which ends the process of all.
  def write_row(paths, name, deadly_one: nil, at: nil)
    image, plan = tiny
    shared = Evrel::Restore::SharedSource.new(image, paths.size)
    paths.zip(shared.readers).map.with_index do |(path, reader), place|
      Thread.new do
        open_disk(path, writable: true) do |disk|
          target = place == deadly_one ? deadly.new(disk, at) : disk
          Evrel::Restore::Engine.new(image: reader, target:, plan:, journal: journal("journal-#{name}-#{place}"), waits: [0.0, 0.0]).run
        end
      ensure
        reader.close
      end
    end.map(&:value)
  end

  row = Effort.all? ? 30 : 5

  it "with eight targets, at #{row} points, ends each of them byte for byte as it would alone" do
    write_tiny(undisturbed = used_tiny('undisturbed', 0))
    all = operations
    random = Random.new(61)
    Array.new(row) { [random.rand(1..all), random.rand(8)] }.each_with_index do |(at, deadly_one), seed|
      paths = Array.new(8) { |place| used_tiny("row-#{seed}-#{place}", 0) }
      killed { write_row(paths, "row-#{seed}", deadly_one:, at:) }
      expect(write_row(paths, "row-#{seed}")).to all(be_verified)
      expect(paths.map { |path| same?(undisturbed, path) }).to all(be(true)), "killed at operation #{at} of target #{deadly_one}"
      paths.each { |path| File.delete(path) }
    end
  end

  it 'loses nothing where the journal has no room at whatever line, and goes on when there is some' do
    skip 'only root mounts' unless Process.uid.zero?
    write_tiny(undisturbed = used_tiny('undisturbed', 0))
    folder = file('small')
    FileUtils.mkdir_p(folder)
    run('mount', '-t', 'tmpfs', '-o', 'size=8k', 'none', folder)
    # One page for all of it: what stands in the heading leaves room for so many lines, until there is room for all.
    refused = (0..40).take_while do |line|
      target = used_tiny("target-#{line}", 0)
      File.write("#{folder}/other", 'x' * 4096)
      attempt = lambda do
        kept = Evrel::Restore::Journal.new("#{folder}/journal", { write: 'x' * (4096 - 60 - (line * 40)) })
        write_tiny(target, journal: kept)
      ensure
        kept&.close
      end
      full = begin
        attempt.call && nil
      rescue Evrel::Restore::Trouble => e
        e
      end
      expect(full).to have_attributes(side: :scratch, kind: :full, message: /journal of the write cannot be kept/) if full
      File.delete("#{folder}/other")
      expect(attempt.call).to be_verified
      expect(same?(undisturbed, target)).to be(true), "no room after #{line} lines"
      [target, "#{folder}/journal"].each { |path| File.delete(path) }
      full
    end
    expect(refused.size).to be_between(4, 30)
  ensure
    system('umount', folder, %i[out err] => File::NULL)
  end

  it 'does not go on with a drive that nothing shows to be the one on which it was begun' do
    middle = operations * 3 / 4
    target = used_tiny('target', 0)
    killed { write_tiny(target, journal: journal('journal'), wrap: ->(disk) { deadly.new(disk, middle) }) }
    # One of the same size, with another table of the same kind and other contents.
    stranger = used_tiny('stranger', 1)
    before = OpenSSL::Digest::SHA256.file(stranger).hexdigest
    expect { write_tiny(stranger, journal: journal('journal')) }.to raise_error(Evrel::Restore::SameTarget::Stranger)
    expect(OpenSSL::Digest::SHA256.file(stranger).hexdigest).to eq(before)
    # What it wrote is enough where the marks are gone, as on a drive that is smaller than it says.
    File.open(target, 'r+b') { |io| [0, File.size(target) - 1_048_576].each { |at| io.pwrite("\0" * 1_048_576, at) } }
    expect(write_tiny(target, journal: journal('journal'))).to be_verified
  end

  it 'looks at the target once more before the old table goes, however long the parts took to be made ready' do
    looks = 0
    guard = -> { raise Evrel::Refused, 'another drive' if (looks += 1) == 2 }
    target = used_tiny('target', 0)
    before = OpenSSL::Digest::SHA256.file(target).hexdigest
    expect { write_tiny(target, guard:) }.to raise_error(Evrel::Refused, 'another drive')
    expect(OpenSSL::Digest::SHA256.file(target).hexdigest).to eq(before)
  end

  it 'is killed twice in the same write' do
    write_tiny(undisturbed = used_tiny('undisturbed', 0))
    all = operations
    target = used_tiny('target', 0)
    [all / 2, all / 6].each do |point|
      killed { write_tiny(target, journal: journal('journal'), wrap: ->(disk) { deadly.new(disk, point) }) }
    end
    expect(write_tiny(target, journal: journal('journal'))).to be_verified
    expect(same?(undisturbed, target)).to be(true)
  end

  # @return [Process::Status]
  def killed
    tiny # made before
    pid = fork do
      yield
    ensure
      Process.exit!(0)
    end
    Process.wait2(pid).last.tap { |status| expect(status.termsig).to eq(Signal.list['KILL']) }
  end

  it 'takes the processes that write for it along, and leaves no lock behind' do
    disk = partitioned('large.raw', 200 * Disks::MIB, "label: gpt\ntype=L\n")
    File.binwrite(file('noise'), Random.new(4).bytes(90 * Disks::MIB))
    FileUtils.mkdir_p(file('full'))
    FileUtils.mv(file('noise'), file('full/noise'))
    run('mke2fs', '-q', '-F', '-t', 'ext4', '-E', "offset=#{Disks::MIB}", '-d', file('full'), disk, '190M')
    image = captured(disk, 'large')
    (Effort.all? ? 4 : 2).times do |seed|
      target = sparse("target-#{seed}", File.size(disk))
      at = Random.new(seed).rand(10..80) * Disks::MIB
      killed do
        restore(image, target, journal: journal("journal-#{seed}")) { |progress| Process.kill(:KILL, Process.pid) if progress.written > at }
      end
      expect(restore(image, target, journal: journal("journal-#{seed}"))).to be_verified
      expect(run('qemu-img', 'compare', disk, target)).to include('identical')
    end
  end
end
