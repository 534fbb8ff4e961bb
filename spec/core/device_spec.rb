# frozen_string_literal: true

require 'stringio'

RSpec.describe Evrel::Disk::Device, :in_memory do
  before { skip 'only root has loop devices' unless Process.uid.zero? }

  after { @devices.to_a.each { |one| system('losetup', '--detach', one) } }

  def loop_of(path, *how)
    run('losetup', '--find', '--show', *how, path).strip.tap { |device| (@devices ||= []) << device }
  end

  def opened(path, **how) = Evrel::Disk.at(path, **how).tap { |disk| (@disks ||= []) << disk }

  describe 'opened for writing' do
    after { @disks&.each(&:close) }

    it_behaves_like('a disk', holes: false) { let(:disk) { opened(loop_of(sparse('whole', 8 * Disks::MIB)), writable: true) } }

    it 'says how large its sectors are, whatever was supposed' do
      disk = opened(loop_of(sparse('4k', 8 * Disks::MIB), '--sector-size', '4096'), logical_sector: 512)
      expect(disk).to have_attributes(logical_sector: 4096, size: 8 * Disks::MIB, serial: nil, writable?: false)
      expect(disk.extents.to_a).to eq([[0, disk.size]])
    end

    it 'is written to by one at a time' do
      device = loop_of(sparse('one', 8 * Disks::MIB))
      opened(device, writable: true)
      expect { opened(device, writable: true) }.to raise_error(Evrel::Refused, /in use|another process/)
    end
  end

  it 'is refused where it, or a part of it, is mounted' do
    disk = three_parts
    start, size = open_disk(disk) do |one|
      part = Evrel::Table.read(one).partitions.find { |found| found.role == :system }
      [part.start, part.size]
    end
    inner = loop_of(loop_of(disk), '--offset', start.to_s, '--sizelimit', size.to_s)
    Dir.mkdir(file('mounted'))
    run('mount', '-o', 'ro,noload', inner, file('mounted'))
    expect { Evrel::Disk.at(inner, writable: true) }.to raise_error(Evrel::Refused, /in use: this machine has mounted it/)
  ensure
    system('umount', file('mounted'))
  end

  it 'takes an image at a terminal only from somebody who has read its label, and holds what the image held' do
    disk = three_parts
    image = captured(disk)
    device = loop_of(sparse('target', File.size(disk)))
    expect(cli('restore', image, device)).to eq([1, 'Refused'])
    expect(cli('restore', image, device, '--label', '7Q1F')).to eq([1, 'Refused'])
    expect(File.binread(device, 1024).count("\0")).to eq(1024)
    expect(cli('restore', image, device, '--label', File.size(disk).to_s)).to eq([0, nil])
    expect(run('sfdisk', '--verify', device)).to include('No errors')
    expect(run('qemu-img', 'compare', '-f', 'raw', '-F', 'raw', disk, device)).to include('identical')
  end

  it 'is moved to another one, and one image goes onto several' do
    disk = three_parts
    source, *targets = [disk, *Array.new(3) { |number| sparse("target-#{number}", File.size(disk)) }].map { |path| loop_of(path) }
    label = File.size(disk).to_s
    expect(cli('restore', source, targets.first, '--label', label)).to eq([0, nil])
    expect(cli('run', captured(disk), *targets.drop(1), '--label', label, '--keep-identity')).to eq([0, nil])
    targets.each { |target| expect(run('qemu-img', 'compare', '-f', 'raw', '-F', 'raw', disk, target)).to include('identical') }
  end

  # @return [Integer, String] exit code, and the kind of error
  def cli(*arguments)
    out = StringIO.new
    code = Evrel::CLI.new(out:, err: StringIO.new).run(arguments)
    told = JSON.parse(out.string)
    [code, told['error'].is_a?(Hash) ? told['error']['error'] || told['error']['class'] : told['error']]
  end
end
