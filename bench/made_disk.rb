# frozen_string_literal: true

require 'English'
require 'fileutils'

# A disk with a realistic mix: a third each of text, of binaries and of what
# does not pack; some zeros.
class MadeDisk
  MIB = 1024**2

  # @param path [String] must not exist
  # @param megabytes [Integer] of used data
  # @param room [Integer] megabytes that are left beside it
  def initialize(path, megabytes, room: 512)
    @path = path
    @megabytes = megabytes
    @room = room
    @random = Random.new(7)
  end

  def make
    tree = "#{@path}.tree"
    FileUtils.mkdir_p(tree)
    (@megabytes / 3).times { |index| files(tree, index) }
    File.binwrite("#{tree}/zeros", "\0" * 16 * MIB)
    Evrel::Disk::File.create(@path, (@megabytes + @room) * MIB)
    run('sfdisk', '-q', @path, stdin: "label: gpt\ntype=L\n")
    run('mke2fs', '-q', '-F', '-t', 'ext4', '-E', "offset=#{MIB}", '-d', tree, @path, "#{@megabytes + @room - 12}M")
    FileUtils.rm_rf(tree)
  end

  private

  # Lines and words differ from file to file; making them anew each time would take minutes.
  def files(tree, index)
    @lines ||= Array.new(MIB / 32) { |line| "#{line};quay #{@random.rand(9_999)};tide #{@random.rand(99)}\n" }
    @words ||= Array.new(2000) { @random.bytes(@random.rand(4..60)) }
    File.binwrite("#{tree}/text-#{index}", @lines.rotate(index * 31).join[0, MIB])
    File.binwrite("#{tree}/program-#{index}", Array.new(MIB / 40) { @words[@random.rand(2000)] + @random.bytes(8) }.join[0, MIB])
    File.binwrite("#{tree}/scan-#{index}", @random.bytes(MIB))
  end

  def run(*command, stdin: '')
    IO.popen(command, 'r+', err: File::NULL) do |io|
      io.write(stdin)
      io.close_write
      io.read
    end
    raise "#{command.first} failed" unless $CHILD_STATUS.success?
  end
end
