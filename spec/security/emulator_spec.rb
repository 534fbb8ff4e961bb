# frozen_string_literal: true

# What an emulated machine could reach of the host, were it to break out.
RSpec.describe Evrel::Startup::Emulator do
  def started(path, format)
    emulator = described_class.new(Dir.mktmpdir('machine', file('.')), [described_class::Drive.new(path:, format:, controller: :sata)],
                                   firmware: :bios, memory: 128)
    emulator.start
    pid = nil
    wait_until { program(pid = Evrel::Tool.program(emulator.instance_variable_get(:@pid))).end_with?(described_class::QEMU) && File.read("/proc/#{pid}/status")[/^Seccomp:\s+(\d)/, 1] == '2' }
    yield pid, emulator
  ensure
    emulator&.finish
  end

  def program(pid) = File.readlink("/proc/#{pid}/exe")
  def wait_until = Timeout.timeout(20) { sleep 0.05 until yield }
  def opened(pid) = Dir["/proc/#{pid}/fd/*"].filter_map { |one| ignored { File.readlink(one) } }

  def ignored
    yield
  rescue SystemCallError
    nil
  end

  it 'starts no program, writes no file without end, and gets no rights' do
    started(sparse('disk.raw', 4 * Disks::MIB), 'raw') do |pid,|
      limits = File.read("/proc/#{pid}/limits")
      expect(limits[/^Max file size\s+(\d+)/, 1].to_i).to eq(described_class::LARGEST)
      expect(limits).to match(/^Max core file size\s+0/)
    end
  end

  it 'opens nothing but the file that was checked, whatever that says it builds on' do
    secret = file('secret')
    File.write(secret, 'x' * Disks::MIB)
    lure = file('lure.qcow2')
    run('qemu-img', 'create', '-q', '-f', 'qcow2', '-u', '-b', secret, '-F', 'raw', lure, '4M')
    started(lure, 'qcow2') do |pid,|
      files = []
      wait_until { (files = opened(pid)).grep(/lure\.qcow2/).any? }
      expect(files.grep(/secret/)).to be_empty
    end
  end

  it 'is read from the end where it says more than anybody reads, and gives the room back' do
    stub_const("#{described_class}::HEARD", 1000)
    stub_const("#{described_class}::FLOOD", 100_000)
    started(sparse('disk.raw', 4 * Disks::MIB), 'raw') do |pid, emulator|
      line = emulator.send(:file, 'serial')
      wait_until { opened(pid).include?(File.realpath(line)) } # it empties the file when it opens it
      File.write(line, "#{'flood ' * 100_000}the last word")
      expect(emulator.said).to end_with('the last word')
      expect(emulator.said.length).to be <= 1000
      expect(File.stat(line).blocks * 512).to be < 100_000
    end
  end
end
