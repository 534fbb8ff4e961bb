# frozen_string_literal: true

RSpec.describe Evrel::Tool do
  def said(*command, **how) = described_class.run('sh', '-c', *command, **how).then { |one| [one.text.strip, one.code] }

  it 'gives a program what it is given, and its words and end back' do
    expect(said('cat; echo behind; exit 7', input: 'given ')).to eq(['given behind', 7])
    expect(said('echo $QUAY; echo $LC_ALL', environment: { 'QUAY' => 'Holm' })).to eq(["Holm\nC", 0])
    apart = described_class.run('sh', '-c', 'echo said; echo complained >&2', errors: true)
    expect(apart).to have_attributes(text: "said\n", errors: "complained\n", success?: true)
    expect(said('kill -TERM $$').last).to be > 128
  end

  it 'lets it see the system and the named files, and nothing else of this machine' do
    File.write(file('given'), 'given')
    File.write(file('beside'), 'beside')
    seen = said("ls #{File.dirname(file('given'))}; ls /; ls /etc /home /root 2>&1", read: [file('given')]).first.split
    expect(seen).to include('given', 'usr')
    expect(seen & %w[beside passwd shadow var]).to eq([])
    expect(said("cat #{file('given')}; echo x > #{file('given')}", read: [file('given')])).to match([/given/, be_positive])
    expect(said("echo x > #{file('given')}", write: [file('given')]).last).to eq(0)
    expect(File.read(file('given'))).to eq("x\n")
    expect(said('echo x > /usr/bin/evil').last).to be_positive
  end

  it 'gives it no network, no process of others, no rights and no device' do
    server = TCPServer.new('127.0.0.1', 0)
    expect(said("exec 3<>/dev/tcp/127.0.0.1/#{server.addr[1]}").last).to be_positive
    expect(described_class.run('bash', '-c', "exec 3<>/dev/tcp/127.0.0.1/#{server.addr[1]}")).to have_attributes(success?: false)
    expect(said('ls -d /proc/[0-9]* | wc -l').first.to_i).to be < 6
    expect(said('grep CapEff /proc/self/status').first).to match(/\s0+\z/)
    expect(said('ls /dev').first.split).not_to include('fuse', 'kvm', 'loop-control')
    expect(said('mount -t tmpfs none /mnt').last).to be_positive
  ensure
    server&.close
  end

  it 'ends what says too much, takes too long or takes too much memory' do
    began = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    expect { said('yes', limits: { answer: 100_000 }) }.to raise_error(Evrel::Damaged, /says too much/)
    expect { said('sleep 60', limits: { seconds: 1 }) }.to raise_error(Evrel::Damaged, /takes too long/)
    expect(said('head -c 400000000 /dev/zero | tail', limits: { memory: 64 << 20 }).first).to match(/memory/)
    expect(Process.clock_gettime(Process::CLOCK_MONOTONIC) - began).to be < 30
  end

  it 'ends with whoever began it' do
    reader, writer = IO.pipe
    parent = fork do
      reader.close
      described_class.start('sh', '-c', 'echo runs; sleep 60', redirections: { out: writer })
      sleep
    end
    writer.close
    expect(reader.gets).to eq("runs\n")
    Process.kill(:KILL, parent)
    Process.wait(parent)
    expect(reader.wait_readable(10) && reader.read).to eq('')
  ensure
    reader&.close
  end

  it 'runs nothing where no sandbox can be made, and says what is not there' do
    expect { described_class.run('no-such-program') }.to raise_error(Evrel::Unreadable, 'no-such-program is not installed')
    allow(described_class).to receive(:missing).and_return('bwrap: no namespaces here')
    expect { said("touch #{file('made')}", write: [File.dirname(file('made'))]) }
      .to raise_error(Evrel::Unsupported, /cannot be run safely on this machine: bwrap: no namespaces here/)
    expect(File.exist?(file('made'))).to be(false)
  end

  it 'is the only place that starts a program' do
    root = File.expand_path('../..', __dir__)
    others = Dir["#{root}/{lib,app}/**/*.rb"].reject { |path| path.end_with?('lib/evrel/tool.rb', 'lib/evrel/linux/spawn.rb') }
    starts = Regexp.union(/Linux::Spawn|IO\.popen|Open3|Process\.spawn|Kernel\.system|%x[({\[|]/,
                          /(?<![.\w])(?:spawn|exec)[ (]['"*]|(?<![.\w`])system\(['"*]/)
    found = others.select { |path| File.readlines(path).grep_v(/^\s*#/).grep(starts).any? }
    expect(found).to eq([])
  end
end
