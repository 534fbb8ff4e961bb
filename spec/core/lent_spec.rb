# frozen_string_literal: true

# What is lent to outside tools: a disk over a socket, and a part of one as a
# file of its own.
RSpec.describe Evrel::Disk::Served do
  def mib = 1024**2

  def made(name, size)
    sparse(name, size).tap do |path|
      random = Random.new(9)
      10.times { File.binwrite(path, random.bytes(70_000), random.rand(size - 70_000)) }
    end
  end

  it 'gives other tools the very bytes, whoever else reads' do
    path = made('disk.raw', 40 * mib)
    open_disk(path) do |disk|
      described_class.over(disk) do |uri, served|
        readers = Array.new(3) { |number| Thread.new { run('qemu-img', 'convert', '-f', 'raw', '-O', 'raw', uri, file("copy-#{number}")) } }
        readers.each(&:join)
        expect(served.trouble).to be_nil
      end
    end
    3.times { |number| expect(run('cmp', file("copy-#{number}"), path)).to be_empty }
  end

  it 'tells a reader that bytes cannot be read, and keeps why' do
    path = made('disk.raw', 4 * mib)
    open_disk(path) do |disk|
      bad = StandIns::Disk::Faulty.new(disk, unreadable: [[mib, 512]])
      described_class.over(bad) do |uri, served|
        said, status = Evrel::Linux::Spawn.capture2e('qemu-img', 'convert', '-f', 'raw', '-O', 'raw', uri, file('copy'))
        expect([status.success?, said]).to match([false, %r{Input/output error}])
        expect(served.trouble).to be_a(Evrel::Unreadable)
      end
    end
  end

  it 'closes a line on which something else is spoken, and serves the next' do
    path = made('disk.raw', mib)
    open_disk(path) do |disk|
      described_class.over(disk) do |uri|
        socket = uri[/socket=(.*)/, 1]
        ["GET / HTTP/1.1\r\n\r\n", "\0" * 4, [1].pack('N') + ('IHAVEOPT' + [7, 1 << 30].pack('NN')), ''].each do |words|
          UNIXSocket.open(socket) do |line|
            line.write(words)
            line.close_write
            line.read
          end
        end
        run('qemu-img', 'convert', '-f', 'raw', '-O', 'raw', uri, file('copy'))
      end
    end
    expect(run('cmp', file('copy'), path)).to be_empty
  end

  # As where the power went: the daemon ends with the process, what it showed stays mounted.
  it 'leaves a folder that can be removed, though its process was killed while a part was shown' do
    path = made('disk.raw', 4 * mib)
    folder = file('scratch with a space')
    FileUtils.mkdir_p(folder)
    shown = IO.pipe
    process = fork do
      Evrel::Disk::Layer.new(folder, path, cluster: 65_536).as_file(mib, mib) do
        shown.last.puts 'shown'
        sleep
      end
    end
    expect(shown.first.gets).to eq("shown\n")
    Process.kill(:KILL, process)
    Process.wait(process)
    eventually { !File.exist?("#{folder}/part") } # its daemon ends a moment later
    expect { FileUtils.rm_r(folder) }.to raise_error(SystemCallError)
    Evrel::Disk::Layer.clear(folder)
    expect(Dir.exist?(folder)).to be(false)
  end

  it 'is changed in a layer above it, a piece of it at a time, and stays as it was' do
    path = made('disk.raw', 8 * mib)
    before = held(path)
    layer = Evrel::Disk::Layer.new(Dir.mktmpdir(nil, File.dirname(path)), path, cluster: 4096)
    layer.as_file(mib, 2 * mib) do |part|
      expect([File.size(part), File.binread(part)]).to eq([2 * mib, File.binread(path, 2 * mib, mib)])
      File.binwrite(part, 'changed', 5000)
      expect { File.truncate(part, mib) }.to raise_error(SystemCallError)
    end
    runs = layer.runs
    expect(runs.map { |run| [run.start, run.length] }).to eq([[mib + 4096, 4096]])
    expect(layer.read(runs.first)).to eq(File.binread(path, 4096, mib + 4096).tap { |bytes| bytes[904, 7] = 'changed' })
    expect(held(path)).to eq(before)
  end
end
