# frozen_string_literal: true

require 'English'
require 'fileutils'
require 'tmpdir'
require_relative 'report'

# A disk with a realistic mix, its image, and what is done with them.
class RestoreBench
  MIB = 1024**2

  def initialize(megabytes, runs)
    @megabytes = megabytes
    @runs = runs
    @results = {}
  end

  def run
    Dir.mktmpdir('evrel-bench', '/var/tmp') do |folder|
      @folder = folder
      make_disk
      capture
      restore
      fit
      check
    end
    report
  end

  private

  # A third each of text, of binaries and of what does not pack; some zeros.
  def make_disk
    tree = "#{@folder}/tree"
    FileUtils.mkdir_p(tree)
    random = Random.new(7)
    (@megabytes / 3).times do |index|
      word = random.bytes(60)
      File.binwrite("#{tree}/text-#{index}", Array.new(MIB / 40) { |line| "#{index};#{line};quay #{random.rand(9_999)}\n" }.join[0, MIB])
      File.binwrite("#{tree}/program-#{index}", Array.new(MIB / 100) { word + random.bytes(40) }.join)
      File.binwrite("#{tree}/scan-#{index}", random.bytes(MIB))
    end
    File.binwrite("#{tree}/zeros", "\0" * 16 * MIB)
    Evrel::Disk::File.create(disk, (@megabytes + 512) * MIB)
    tool('sfdisk', '-q', disk, stdin: "label: gpt\ntype=L\n")
    tool('mke2fs', '-q', '-F', '-t', 'ext4', '-E', "offset=#{MIB}", '-d', tree, disk, "#{@megabytes + 500}M")
    FileUtils.rm_rf(tree)
  end

  def disk = "#{@folder}/disk.raw"
  def image = "#{@folder}/image"
  def target = "#{@folder}/target.raw"

  def capture
    ours = median { evrel("rm -rf #{image}") { "Evrel::Image::Capture.new(Evrel::Disk::File.open('#{disk}'), '#{image}').run" } }
    theirs = median do
      FileUtils.rm_f("#{@folder}/theirs.qcow2")
      timed { tool('qemu-img', 'convert', '-c', '-O', 'qcow2', '-o', 'compression_type=zstd', disk, "#{@folder}/theirs.qcow2") }
    end
    keep('capture, with digests', ours, 'qemu-img convert -c, zstd', theirs)
  end

  def restore
    tool('fallocate', '-l', File.size(disk).to_s, target)
    @write = write = median { evrel(fill) { engine(read_back: false) } }
    theirs = median { timed(fill) { tool('qemu-img', 'convert', '-n', '-O', 'raw', "#{image}/disk.qcow2", target) } }
    both = median { evrel(fill) { engine(read_back: true) } }
    keep('restore, every cluster checked', write, 'qemu-img convert -n -O raw', theirs)
    keep('read-back', both - write, 'the write', write)
    @results['peak memory of a restore'] = { megabytes: @memory }
  end

  # What another size costs above the write: growing where it lies, shrinking in the scratch room.
  def fit
    large = "rm -f #{target}; truncate -s #{File.size(disk) * 2} #{target}"
    grown = median { evrel(large) { fitted("'way' => 'grow'") } }
    keep('restore onto twice the size, grown', grown, 'the write as it is', @write)
    small = "rm -f #{target}; truncate -s #{(@megabytes + 420) * MIB} #{target}"
    shrunk = median { evrel(small) { fitted("'way' => 'shrink', 'air' => 0") } }
    keep('restore onto a smaller disk, shrunk', shrunk, 'the write as it is', @write)
  end

  def fitted(wish)
    "i = Evrel::Image.open('#{image}'); d = Evrel::Disk::File.open('#{target}', writable: true); " \
      "s = Evrel::Layout::Source.of(i); p = Evrel::Layout::Planner.new(s, Evrel::Layout::Target.of(d), { #{wish} }).plan.valid!; " \
      "r = Evrel::Restore::Scratch.new('#{@folder}/scratch'); " \
      'Evrel::Restore::Engine.new(image: i, target: d, plan: p, scratch: r, read_back: false).run; r.remove'
  end

  # The target is preallocated for both.
  def fill = "rm -f #{target}; fallocate -l #{File.size(disk)} #{target}"

  def engine(read_back:)
    "i = Evrel::Image.open('#{image}'); d = Evrel::Disk::File.open('#{target}', writable: true); " \
      "Evrel::Restore::Engine.new(image: i, target: d, plan: Evrel::Layout.as_in_image(i, d), read_back: #{read_back}).run"
  end

  def check
    ours = median { evrel { "Evrel::Image::Check.new(Evrel::Image.open('#{image}')).run" } }
    @results['check of an image'] = { seconds: ours.round(2), megabytes_per_second: (@megabytes / ours).round }
  end

  # In a process of its own, so that its peak memory is its own. @return [Float] seconds
  def evrel(before = nil)
    system(before) if before
    code = "require 'evrel'; t = Process.clock_gettime(1); #{yield}; puts Process.clock_gettime(1) - t; " \
           "puts File.read('/proc/self/status')[/VmHWM:\\s+(\\d+)/, 1]"
    seconds, kilobytes = IO.popen([RbConfig.ruby, "-I#{$LOAD_PATH.first}", '-rbundler/setup', '-e', code], &:read).split
    @memory = kilobytes.to_i / 1024
    Float(seconds)
  end

  def timed(before = nil)
    system(before) if before
    start = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    yield
    Process.clock_gettime(Process::CLOCK_MONOTONIC) - start
  end

  def median(&)
    Array.new(@runs, &).sort[@runs / 2]
  end

  def tool(*command, stdin: '')
    IO.popen(command, 'r+', err: File::NULL) do |io|
      io.write(stdin)
      io.close_write
      io.read
    end
    raise "#{command.first} failed" unless $CHILD_STATUS.nil? || $CHILD_STATUS.success?
  end

  def keep(name, ours, against, theirs)
    @results[name] = { seconds: ours.round(2), against:, their_seconds: theirs.round(2), ratio: (ours / theirs).round(2) }
  end

  def report = Report.new('restore', megabytes: @megabytes, runs: @runs).give(@results)
end
