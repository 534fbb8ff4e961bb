# frozen_string_literal: true

require 'tmpdir'
require 'zlib'
require_relative '../setup/setup'
require_relative 'report'

# Looking through 2,000 files, a catalogue of 10,000 images, and a folder with
# 200,000 files in it.
class LocateBench
  FILES = 2000
  IMAGES = 10_000
  MANY = 200_000
  MIB = 1024**2

  def initialize(runs)
    @runs = runs
    @results = {}
  end

  def run
    Dir.mktmpdir('evrel-bench', '/var/tmp') do |folder|
      @folder = folder
      shelf
      large_folder
      catalogue
    end
    Report.new('locate', files: FILES, images: IMAGES, entries: MANY, runs: @runs).give(@results)
  end

  private

  # Disks under any name among what lies about on a share.
  def shelf
    root = File.join(@folder, 'shelf')
    make_files(root)
    shelf = Evrel::Shelf::Folder.new(root)
    stamps = nil
    first = median { timed { stamps = Evrel::Shelf::Look.new(shelf).run { nil }.stamps } }
    known = stamps.transform_values { |stamp| Evrel::Shelf::Look::Known.new(stamp, nil) }
    again = median { timed { Evrel::Shelf::Look.new(shelf, known:).run { nil } } }
    heads = median { timed { system("find #{root} -type f -exec head -qc #{Evrel::Image::Format::HEAD} {} + > /dev/null", exception: true) } }
    @results['looking through 2,000 files'] = compared(first, 'find -exec head of the same', heads)
    @results['the same again, unchanged'] = { seconds: again.round(3), ratio_to_the_first: (again / first).round(3) }
  end

  def make_files(root)
    disk = File.join(@folder, 'disk')
    Evrel::Disk::File.create(disk, 200 * MIB)
    Setup.run('bash', '-c', "printf 'label: gpt\\ntype=L\\n' | sfdisk -q #{disk}")
    Setup.run('mke2fs', '-q', '-F', '-t', 'ext4', '-E', "offset=#{MIB}", disk, '198M')
    random = Random.new(5)
    FILES.times do |index|
      path = File.join(root, "folder-#{index % 40}", "file #{index}")
      FileUtils.mkdir_p(File.dirname(path))
      make_file(path, index, disk, random)
    end
  end

  def make_file(path, index, disk, random)
    case index % 20
    when 0 then Setup.run('cp', '--sparse=always', disk, path)
    when 1 then Setup.run('qemu-img', 'convert', '-O', 'qcow2', disk, path)
    when 2 then File.binwrite(path, Zlib.gzip(random.bytes(40_000)))
    when 3..8 then File.binwrite(path, random.bytes(random.rand(1000..2_000_000)))
    else File.write(path, "quay #{index}\n" * random.rand(1..20_000))
    end
  end

  # The first page of it, as the tree of an image shows it.
  def large_folder
    path = File.join(@folder, 'large')
    Evrel::Disk::File.create(path, 600 * MIB)
    Setup.run('mke2fs', '-q', '-F', '-t', 'ext4', '-N', (MANY + 1000).to_s, path)
    mounted(path) do |root|
      FileUtils.mkdir_p("#{root}/many")
      MANY.times { |index| File.write("#{root}/many/#{format('file-%<index>06d.txt', index:)}", '') }
    end
    page = median { timed { Evrel::Volume.recognise(Evrel::Disk::File.open(path)).page('/many', count: 300) } }
    theirs = median { timed { Setup.run('debugfs', '-R', 'ls -l /many', path) } }
    @results['first 300 of a folder of 200,000 files'] = compared(page, 'debugfs ls -l of it', theirs)
  end

  # Filled through the kernel: mke2fs takes hours for a folder of this size.
  def mounted(path)
    root = File.join(@folder, 'mnt')
    FileUtils.mkdir_p(root)
    Setup.run('mount', '-o', 'loop', path, root)
    yield root
  ensure
    Setup.run('umount', root)
  end

  def catalogue
    ENV.update('EVREL_VAR' => File.join(@folder, 'var'), 'EVREL_DB_PORT' => '33073', 'EVREL_DB_NAME' => 'evrel_bench')
    FileUtils.mkdir_p(ENV.fetch('EVREL_VAR'))
    database = Setup::Database.new(ENV.fetch('EVREL_VAR'), port: 33_073, name: 'evrel_bench')
    database.start
    require_relative 'catalogue'
    @results.merge!(CatalogueBench.new(IMAGES, @runs).run)
  ensure
    database&.stop
  end

  def timed
    start = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    yield
    Process.clock_gettime(Process::CLOCK_MONOTONIC) - start
  end

  def median(&) = Array.new(@runs, &).sort[@runs / 2]

  def compared(ours, against, theirs)
    { seconds: ours.round(2), against:, their_seconds: theirs.round(2), ratio: (ours / theirs).round(2) }
  end
end
