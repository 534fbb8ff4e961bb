# frozen_string_literal: true

RSpec.describe Evrel::Apart do
  def mine = Process.clock_gettime(Process::CLOCK_MONOTONIC)

  it 'gives back plain data, and what was appended meanwhile in its order' do
    expect(described_class.call { { pid: Process.pid, list: [1, 'ø', nil] } }).to match('pid' => satisfy { |pid|
      pid.positive? && pid != Process.pid
    }, 'list' => [1, 'ø', nil])
    got = ''.b
    expect(described_class.stream(->(bytes) { got << bytes }) { |out| 40.times { |at| out << (at.chr * 70_000) } && 'done' }).to eq('done')
    expect(got).to eq((0...40).map { |at| at.chr * 70_000 }.join.b)
  end

  it 'raises what the core raises on purpose, with its words, and nothing else by name' do
    expect { described_class.call { raise Evrel::NotFound.new('there is no part 9', where: 'part 9', hint: 'look again') } }
      .to raise_error(Evrel::NotFound, 'there is no part 9') { |e| expect(e).to have_attributes(where: 'part 9', hint: 'look again') }
    expect { described_class.call { raise IOError, 'gone' } }.to raise_error(RuntimeError, /IOError: gone/)
    expect { described_class.call { nil.foo } }.to raise_error(RuntimeError, /NoMethodError/)
  end

  it 'ends what runs too long, takes too much memory or says too much' do
    began = mine
    expect { described_class.call(seconds: 1) { loop { sleep 1 } } }.to raise_error(Evrel::Refused, /takes too long/)
    expect { described_class.call(processor: 1) { loop { 1 } } }.to raise_error(Evrel::Refused, /was ended/)
    expect do
      described_class.call(memory: 64 << 20) do
        Array.new(64) do
          'x' * (8 << 20)
        end.size
      end
    end.to raise_error(Evrel::Refused, /more memory/)
    expect { described_class.call(answer: 1000) { 'x' * 2000 } }.to raise_error(Evrel::Damaged, /too much/)
    expect(mine - began).to be < 30
  end

  it 'is ended by a crash alone' do
    expect { described_class.call { Process.kill(:KILL, Process.pid) && sleep } }.to raise_error(Evrel::Refused, /made to do harm/)
    expect(described_class.call { 'the next one' }).to eq('the next one')
  end

  it 'leaves no process behind, holds no connection open, and changes nothing here' do
    children = -> { Dir['/proc/self/task/*/children'].flat_map { |path| File.read(path).split } }
    before = children.call
    expect { UNIXSocket.open('/no/such/socket') }.to raise_error(Errno::ENOENT) # one that never came to be open
    ours, theirs = UNIXSocket.pair
    value = 1
    expect(described_class.call { (value = 2) && [ours.closed?, theirs.closed?] }).to eq([true, true])
    expect(value).to eq(1)
    ours.write('x')
    expect(theirs.readpartial(1)).to eq('x')
    expect(children.call - before).to eq([])
  ensure
    [ours, theirs].compact.each(&:close)
  end

  it 'ends with the process that began it' do
    told = file('told')
    parent = fork { described_class.call { File.write("#{told}.new", Process.pid) && File.rename("#{told}.new", told) && sleep(60) } }
    sleep 0.02 until File.exist?(told)
    child = File.read(told).to_i
    Process.kill(:KILL, parent)
    Process.wait(parent)
    100.times { File.exist?("/proc/#{child}") ? sleep(0.1) : break }
    expect(File.exist?("/proc/#{child}") && File.read("/proc/#{child}/stat")[/\) (\S)/, 1]).to eq(false).or eq('Z')
  end

  it 'writes nothing that another thread was about to write' do
    path = file('list')
    held = Queue.new
    writer = Thread.new do
      io = File.open(path, 'wb')
      io.write('a line that is not written out yet')
      held << true
      sleep
    ensure
      io.close
    end
    held.pop
    8.times { described_class.call { GC.start && nil } }
    work = ->(job, _) { GC.start && job }
    Evrel::Pipeline.each([1, 2, 3], work, apart: true, room: 1) { nil }
    writer.kill
    writer.join
    expect(File.read(path)).to eq('a line that is not written out yet')
  end
end
