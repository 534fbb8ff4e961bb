# frozen_string_literal: true

require 'English'
require 'fileutils'
require 'tmpdir'
require_relative 'made_disk'
require_relative 'report'

# Taking, checking and restoring an image, against general tools.
class RestoreBench
  MIB = 1024**2
  # What "the write is the slower side" means here, in bytes per second.
  SLOW_WRITE = 200 * MIB
  QUICK_READ = 800 * MIB

  def initialize(megabytes, runs)
    @megabytes = megabytes
    @runs = runs
    @results = {}
  end

  def run
    measure('restore') do
      capture
      check
      restore
      in_memory
      raw
      differing
      capacity
    end
  end

  # What another size costs above the write: growing where it lies, shrinking in the scratch room.
  def run_fit
    measure('fit', room: 2048) do
      evrel { "Evrel::Image::Capture.new(Evrel::Disk::File.open('#{disk}'), '#{image}').run" }
      @write = median { evrel(fill) { engine(read_back: false) } }
      fit
    end
  end

  private

  def measure(name, room: 512)
    Dir.mktmpdir('evrel-bench', '/var/tmp') do |folder|
      @folder = folder
      MadeDisk.new(disk, @megabytes, room:).make
      yield
    end
    Report.new(name, megabytes: @megabytes, runs: @runs).give(@results)
  end

  def disk = "#{@folder}/disk.raw"
  def image = "#{@folder}/image"
  def target = "#{@folder}/target.raw"

  def capture
    theirs = "#{@folder}/theirs.qcow2"
    packed = ['-c', '-O', 'qcow2', '-o', 'compression_type=zstd']
    compare('capture, with digests and checksums', 'qemu-img convert -c, zstd',
            -> { evrel("rm -rf #{image}") { "Evrel::Image::Capture.new(Evrel::Disk::File.open('#{disk}'), '#{image}').run" } },
            -> { timed("rm -f #{theirs}") { tool('qemu-img', 'convert', *packed, disk, theirs) } })
    @results['size of the image'] = { ratio: (File.size("#{image}/disk.qcow2").to_f / File.size(theirs)).round(3) }
    FileUtils.rm_f(theirs)
  end

  def check
    compare('check of an image', 'its clusters read and decompressed on all cores',
            -> { evrel { "Evrel::Image::Check.new(Evrel::Image.open('#{image}')).run" } },
            lambda {
              evrel do
                "i = Evrel::Image.open('#{image}'); jobs = i.digests.each_batch(batch: 128).map { |batch| batch.map(&:first) }; " \
                  'Evrel::Pipeline.each(jobs, ->(job, _) { i.each_cluster(job) {}; nil }, apart: true) {}'
              end
            })
  end

  # A write is over when its bytes are on the disk: ours flushes by itself, theirs gets a sync.
  def restore
    @write, = compare('restore, every cluster checked', 'qemu-img convert -n -O raw, then sync',
                      -> { evrel(fill) { engine(read_back: false) } },
                      -> { timed(fill) { convert && tool('sync', target) } })
    keep('the same, against it without sync', @write, 'qemu-img convert -n -O raw', median { timed(fill) { convert } })
    back = median { evrel(fill) { engine(read_back: true) } } - @write
    keep('read-back', back, 'the write', @write)
    @results['peak memory of a restore, all its processes'] = { megabytes: peak { engine(read_back: true) } }
  end

  # Onto a target in memory: what the processors alone make of it.
  def in_memory
    memory = "/dev/shm/evrel-bench-#{$PROCESS_ID}.raw"
    empty = "rm -f #{memory}; fallocate -l #{File.size(disk)} #{memory}"
    compare('restore onto a target in memory', 'qemu-img convert -n -O raw',
            -> { evrel(empty) { engine(read_back: false, target: memory) } }, -> { timed(empty) { convert(memory) } })
  ensure
    FileUtils.rm_f(memory)
  end

  def raw
    compare('restore of a raw image', 'cp --sparse=never, then sync',
            lambda {
              evrel(fill) { engine(read_back: false, from: "Evrel::Image.open('#{disk}')") }
            },
            -> { timed(fill) { tool('cp', '--sparse=never', disk, target) && tool('sync', target) } })
  end

  # One cluster in a hundred differs, and writing is slow.
  def differing
    paced = "StandIns::Disk::Paced.new(d, #{SLOW_WRITE}, reading: #{QUICK_READ})"
    spoil = 'r = Random.new(3); all = i.digests.each_batch.flat_map { |b| b.map(&:first) }; ' \
            'all.each { |n| d.write(n * 65_536, r.bytes(4096)) if r.rand(100).zero? }; d.flush; '
    system(fill)
    evrel { engine(read_back: false) }
    ours = median { evrel { "#{opened}#{spoil}t = Process.clock_gettime(1); #{engine_of("target: #{paced}, skip_identical: true")}" } }
    theirs = median { evrel { "#{opened}#{engine_of("target: #{paced}")}" } }
    keep('only what differs, 1 % of it, slow writes', ours, 'the whole write', theirs)
  end

  def fit
    large = "rm -f #{target}; truncate -s #{File.size(disk) * 2} #{target}"
    keep('restore onto twice the size, grown', median { evrel(large) { fitted("'way' => 'grow'") } }, 'the write as it is', @write)
    small = "rm -f #{target}; truncate -s #{((@megabytes * 2) + 200) * MIB} #{target}"
    keep('restore onto a smaller disk, shrunk', median { evrel(small) { fitted("'way' => 'shrink', 'air' => 0") } },
         'the write as it is', @write)
  end

  # The same image onto ever larger drives.
  def capacity
    sizes = { '240 GB' => 240 * (10**9), '4 TB' => 4 * (10**12), '16 TB' => 16 * (10**12) }
    times = sizes.transform_values do |size|
      median { evrel("rm -f #{target}; truncate -s #{size / 4096 * 4096} #{target}") { engine(read_back: true) } }
    end
    times.each do |name, seconds|
      @results["restore and read-back, onto #{name}"] = { seconds: seconds.round(2), ratio: (seconds / times.values.first).round(3) }
    end
  end

  def fitted(wish)
    "i = Evrel::Image.open('#{image}'); d = Evrel::Disk::File.open('#{target}', writable: true); " \
      "s = Evrel::Layout::Source.of(i); p = Evrel::Layout::Planner.new(s, Evrel::Layout::Target.of(d), { #{wish} }).plan.valid!; " \
      "r = Evrel::Restore::Scratch.new('#{@folder}/scratch'); " \
      'Evrel::Restore::Engine.new(image: i, target: d, plan: p, scratch: r, read_back: false).run; r.remove'
  end

  # The target is preallocated for both.
  def fill = "rm -f #{target}; fallocate -l #{File.size(disk)} #{target}"

  def convert(onto = target) = tool('qemu-img', 'convert', '-n', '-O', 'raw', "#{image}/disk.qcow2", onto)

  def engine(read_back:, **where) = "#{opened(**where)}#{engine_of("target: d, read_back: #{read_back}")}"

  def opened(target: self.target, from: "Evrel::Image.open('#{image}')")
    "i = #{from}; d = Evrel::Disk::File.open('#{target}', writable: true); "
  end

  def engine_of(how) = "Evrel::Restore::Engine.new(image: i, plan: Evrel::Layout.as_in_image(i, d), #{how}).run"

  # In a process of its own.
  # @param before [String, nil] command of the shell
  # @param ready [String] what comes before the clock is started
  # @return [Float] seconds
  def evrel(before = nil, ready: '')
    system(before) if before
    code = "require 'evrel'; require './stand_ins/disk'; Zeitwerk::Loader.eager_load_all; #{ready}; " \
           "t = Process.clock_gettime(1); #{yield}; puts Process.clock_gettime(1) - t"
    Float(IO.popen([RbConfig.ruby, "-I#{$LOAD_PATH.first}", '-rbundler/setup', '-e', code], &:read))
  end

  # Memory that a process and those that it forks have between them: what is shared counts once.
  # @return [Integer] megabytes at the highest
  def peak
    system(fill)
    pid = spawn(RbConfig.ruby, "-I#{$LOAD_PATH.first}", '-rbundler/setup', '-e', "require 'evrel'; #{yield}")
    highest = 0
    until Process.wait(pid, Process::WNOHANG)
      highest = [highest, family(pid).sum { |one| shared_out(one) }].max
      sleep 0.05
    end
    highest / 1024
  end

  def family(pid)
    [pid, *File.read("/proc/#{pid}/task/#{pid}/children").split]
  rescue SystemCallError
    [pid]
  end

  # @return [Integer] kilobytes; none of one that has just ended
  def shared_out(pid)
    File.read("/proc/#{pid}/smaps_rollup")[/^Pss:\s+(\d+)/, 1].to_i
  rescue SystemCallError
    0
  end

  def timed(before = nil)
    system(before) if before
    start = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    yield
    Process.clock_gettime(Process::CLOCK_MONOTONIC) - start
  end

  # One after the other in turn, so that a noisy minute hits both.
  def compare(name, against, ours, theirs)
    ours, theirs = Array.new(@runs) { [ours.call, theirs.call] }.transpose.map { |times| times.sort[@runs / 2] }
    keep(name, ours, against, theirs)
    [ours, theirs]
  end

  def median(&) = Array.new(@runs, &).sort[@runs / 2]

  def tool(*command)
    system(*command, exception: true, err: File::NULL)
  end

  def keep(name, ours, against, theirs)
    @results[name] = { seconds: ours.round(2), against:, their_seconds: theirs.round(2), ratio: (ours / theirs).round(2) }
    warn "#{name}: #{@results[name]}"
  end
end
