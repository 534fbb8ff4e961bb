# frozen_string_literal: true

require_relative '../../stand_ins/bench'
require_relative '../contracts/bench'

RSpec.describe Evrel::Warden, :in_memory do
  let(:plain) { StandIns::Bench.new(file('bench')) }
  let(:client) { described_class::Client.new(file('socket')) }
  let(:bench) { StandIns::Bench.new(file('bench'), warden: client) }
  let(:drive) { bench.drives.first }
  let(:user) { Process.euid }
  let(:server) { described_class::Server.new(described_class::Door.new([plain]), record, file('socket'), user:) }
  let(:record) { described_class::Record.new(file('opened.jsonl')) }

  before do
    { 'TF48-2209-7Q4F' => '3', 'TF48-2209-7Q1F' => '5' }.each do |serial, port|
      plain.make({ 'serial' => serial, 'maker' => 'Tarn', 'model' => 'F48', 'capacity' => 64 * Disks::MIB, 'bus' => 'sata',
                   'logical_sector' => 512, 'physical_sector' => 4096 })
      plain.plug(serial, port)
    end
    @serving = server.then { |one| Thread.new { one.run } }
  end

  after do
    server.close
    @serving.join
    record.close
  end

  def change(**about) = plain.change_drive('TF48-2209-7Q4F') { |told| told.merge!(about.transform_keys(&:to_s)) }
  def recorded = File.readlines(file('opened.jsonl')).map { |line| JSON.parse(line) }

  it_behaves_like 'a bench'

  it 'hands over a drive to write to, and records for whom, without what proves it' do
    plain.lock(drive, 'D-0001')
    drive.open(writable: true, docket: 'D-0001').tap { |disk| disk.write(512, 'written') }.close
    expect(File.binread(drive.local_path, 7, 512)).to eq('written')
    expect(recorded).to match([include('pid' => Process.pid, 'uid' => user, 'port' => '3', 'docket' => 'D-0001', 'opened' => true)])
    expect(recorded.to_s).not_to include('7Q4F')
  end

  it 'is not asked where a drive is only read' do
    drive.open.close
    expect(recorded).to eq([])
  end

  it 'looks by itself: at what is in the port, at its lock, and at what uses it' do
    seen = drive
    plain.swap('3', '5')
    expect { client.open(seen) }.to raise_error(Evrel::Refused, /port 3 is not opened for writing: it is another drive/)
    plain.swap('3', '5')
    change(capacity: 128 * Disks::MIB)
    expect { client.open(seen) }.to raise_error(Evrel::Refused, /another drive/)
    change(capacity: 64 * Disks::MIB)
    plain.lock(seen, 'D-0001')
    expect { client.open(seen, docket: 'D-0002') }.to raise_error(Evrel::Refused, /locked to D-0001/)
    plain.lock(seen, nil)
    { running: 'this machine runs from it', in_use: 'it is in use: mounted at /mnt', read_only: 'it is read-only' }.each do |name, why|
      change(name => name == :in_use ? 'mounted at /mnt' : true)
      expect { client.open(seen) }.to raise_error(Evrel::Refused, /#{why}/)
      change(name => nil)
    end
    plain.pull('3')
    expect { client.open(seen) }.to raise_error(Evrel::Away)
    expect(recorded.map { |line| line.values_at('opened', 'why') }).to all(match([false, an_instance_of(String)]))
    expect(recorded.size).to eq(7)
  end

  it 'opens no other file in a drive\'s place' do
    other = file('other').tap { |path| File.write(path, 'of the machine') }
    FileUtils.ln_sf(other, drive.local_path)
    expect { client.open(drive) }.to raise_error(Evrel::Unreadable, /cannot be opened/)
    File.unlink(drive.local_path)
    Dir.mkdir(drive.local_path)
    expect { client.open(drive) }.to raise_error(Evrel::Unreadable)
    expect(File.read(other)).to eq('of the machine')
  end

  it 'goes on where it is sent what is no request' do
    ["\n", "[1]\n", "{\n", "{\"bench\": 7, \"port\": {\"a\": []}, \"key\": 5}\n", 'x' * 100_000].each do |said|
      UNIXSocket.open(file('socket')) do |line|
        line.write(said)
        expect(line.gets).to include('"error":"NotFound"')
      rescue Errno::EPIPE, Errno::ECONNRESET
        nil # it has read as much as it wants
      end
    end
    silent = UNIXSocket.new(file('socket'))
    expect(client.open(drive).tap(&:close)).to be_a(File)
    silent.close
  end

  it 'says so where none is there' do
    gone = described_class::Client.new(file('nothing'))
    expect { gone.open(drive) }.to raise_error(Evrel::Unreadable, /warden.*does not answer/)
  end

  # Only root can be two users.
  if Process.uid.zero?
    describe 'for users without rights' do
      let(:user) { 65_534 }

      before do
        File.chmod(0o755, file('.'))
        FileUtils.chmod_R('a+rX', file('bench'))
        drive
      end

      it 'opens for the one what that one cannot open itself' do
        expect(as_user(user) { File.open(drive.local_path, 'r+b') }).to include('EACCES')
        expect(as_user(user) { drive.open(writable: true).then { |disk| disk.write(0, 'by asking') && disk.close } }).to eq('')
        expect(File.binread(drive.local_path, 9)).to eq('by asking')
        expect(recorded.last).to include('uid' => user)
      end

      it 'answers nobody else' do
        expect(as_user(65_533) { client.open(drive) }).to match(/does not answer/)
        File.chmod(0o666, file('socket'))
        expect(as_user(65_533) { client.open(drive) }).to match(/does not answer/)
        expect(recorded).to eq([])
      end
    end
  end
end
