# frozen_string_literal: true

require 'fileutils'
require 'open3'
require 'tmpdir'
require_relative 'report'

# What it costs to hold maps of used blocks against all that can contradict
# them, as a share of taking an image: volumes of every kind with many files of
# the usual sizes, a hundred kilobytes each on average.
class ProofBench
  MIB = 1024**2
  VOLUMES = { 'ext4' => %w[mke2fs -q -F -t ext4], 'ext4 without checksums' => %w[mke2fs -q -F -t ext4 -O ^metadata_csum,^uninit_bg],
              'ext3' => %w[mke2fs -q -F -t ext3], 'NTFS' => nil, 'FAT32' => nil }.freeze

  # @param files [Integer] how many
  # @param runs [Integer]
  def initialize(files, runs)
    @files = files
    @runs = runs
    @results = {}
  end

  def run
    Zeitwerk::Loader.eager_load_all # loading code is no part of what is measured
    4.times { GC.start } # nor is copying a heap that is still young into each measurement
    Dir.mktmpdir('evrel-bench', '/var/tmp') do |folder|
      @folder = folder
      make_files
      VOLUMES.each { |name, tool| measure(name, tool) }
    end
    Report.new('proof', files: @files, runs: @runs).give(@results)
  end

  private

  def tree = "#{@folder}/tree"
  def volume = "#{@folder}/volume"

  # Half of each file is text, half noise, so that it packs about as well as a system's files do.
  def make_files
    random = Random.new(1)
    @files.times do |number|
      path = "#{tree}/#{number / 200}/file-#{number}"
      FileUtils.mkdir_p(File.dirname(path))
      half = random.rand(2..100_000)
      File.binwrite(path, random.bytes(half) + ('tide and time ' * (half / 14)))
    end
  end

  def measure(name, tool)
    size = (@files * 130_000) + (300 * MIB)
    FileUtils.rm_f(volume)
    File.open(volume, 'w') { |io| io.truncate(size) }
    make(name, tool)
    capture = median { timed { |disk| Evrel::Image::Capture.new(disk, "#{@folder}/image").run } }
    proof = median { timed { |disk| Evrel::Image::UsedMap.new(disk) } - timed { |disk| Evrel::Image::UsedMap.new(disk, prove: false) } }
    @results["the map of #{name}"] = { seconds: proof.round(2), of_a_capture_of: capture.round(2), ratio: (proof / capture).round(3) }
  end

  def make(name, tool)
    return tool!(*tool, '-d', tree, volume) if tool
    return fat if name == 'FAT32'

    tool!('mkntfs', '-q', '-F', '-Q', volume)
    FileUtils.mkdir_p("#{@folder}/mounted")
    tool!('ntfs-3g', volume, "#{@folder}/mounted")
    tool!('cp', '-r', tree, "#{@folder}/mounted")
    tool!('umount', "#{@folder}/mounted")
  end

  def fat
    tool!('mkfs.vfat', '-F', '32', '-s', '8', volume)
    tool!('mcopy', '-s', '-i', volume, tree, '::')
  end

  def tool!(*command)
    said, status = Open3.capture2e(*command)
    raise "#{command.first}: #{said}" unless status.success?
  end

  # In a process of its own each time, with what it reads in the page cache.
  def timed(&block)
    FileUtils.rm_rf("#{@folder}/image")
    reader, writer = IO.pipe
    pid = fork do
      Evrel::Disk::File.open(volume) do |disk|
        before = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        block.call(disk)
        writer << (Process.clock_gettime(Process::CLOCK_MONOTONIC) - before)
      end
      writer.close
      exit!(0)
    end
    writer.close
    Float(reader.read).tap { Process.wait(pid) }
  end

  def median(&) = Array.new(@runs, &).sort[@runs / 2]
end
