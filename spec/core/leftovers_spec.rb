# frozen_string_literal: true

RSpec.describe Evrel::Linux::Leftovers do
  let(:place) { file('tmp').tap { |path| Dir.mkdir(path) } }
  let(:gone) { fork { exit! }.tap { |pid| Process.wait(pid) } }

  # @return [String] a folder with a file in it, as a process leaves one behind
  def folder(pid, age: 3600, name: 'evrel-trial')
    File.join(place, "#{name}20261101-#{pid}-a1b2c3").tap do |path|
      Dir.mkdir(path)
      File.write(File.join(path, 'disk'), 'x')
      File.utime(Time.now - age, Time.now - age, path)
    end
  end

  it 'removes what killed processes left, and nothing of those that run, of others, or that is young' do
    left = [folder(gone), folder(gone, name: 'evrel-ext')]
    kept = [folder(Process.pid), folder(gone, name: 'other-trial'), folder(gone, age: 5, name: 'evrel-young'), folder(1, name: 'evrel-one')]
    File.symlink(kept.first, File.join(place, "evrel-link20261101-#{gone}-a1"))
    expect(described_class.remove([place, place])).to match_array(left)
    expect(left.select { |path| File.exist?(path) }).to eq([])
    expect(kept.select { |path| File.exist?(File.join(path, 'disk')) }).to eq(kept)
  end

  it 'takes away a file that was shown there by a process that was killed' do
    shown = folder(gone, name: 'evrel-shown')
    disk = sparse('disk', 4 * Disks::MIB)
    reading, writing = IO.pipe
    pid = fork do
      nodes = ['--blockdev', "driver=raw,node-name=all,file.driver=file,file.filename=#{disk}"]
      Evrel::Disk::Shown.file(shown, nodes, 'all', File.size(disk)) do
        writing.write('.')
        sleep
      end
    end
    reading.read(1)
    Process.kill(:KILL, pid)
    Process.wait(pid)
    File.utime(Time.now - 3600, Time.now - 3600, shown)
    eventually { described_class.remove([place]) == [shown] }
    expect(File.exist?(shown)).to be(false)
    expect(File.read('/proc/self/mountinfo')).not_to include(shown)
  end
end
