# frozen_string_literal: true

RSpec.describe Evrel::Disk do
  let(:path) { sparse('disk', 8 * Disks::MIB) }
  let(:whole) { open_disk(path, writable: true) }

  describe Evrel::Disk::File do
    it_behaves_like('a disk') { let(:disk) { whole } }

    it 'is opened read-only unless asked otherwise' do
      expect { open_disk(path).write(0, 'x') }.to raise_error(Evrel::Refused)
      expect { open_disk(path).discard(0, 512) }.to raise_error(Evrel::Refused)
    end

    it 'has one writer at a time' do
      whole
      expect { open_disk(path, writable: true) }.to raise_error(Evrel::Refused, /being written/)
    end

    it 'names what cannot be opened' do
      expect { open_disk(file('nowhere')) }.to raise_error(Evrel::Unreadable, /nowhere/)
      expect { open_disk(@folder) }.to raise_error(Evrel::Unreadable)
    end

    it 'leaves out bytes behind the last whole sector' do
      File.write(file('odd'), 'x' * 1300)
      expect(open_disk(file('odd')).size).to eq(1024)
    end

    it 'says where a file ends early' do
      disk = whole
      File.truncate(path, 4096)
      expect { disk.read(4096, 512) }.to raise_error(Evrel::Unreadable, /ends early/)
    end
  end

  describe Evrel::Disk::Window do
    it_behaves_like('a disk') { let(:disk) { described_class.new(whole, Disks::MIB, 6 * Disks::MIB) } }

    it 'touches nothing outside of itself' do
      window = described_class.new(whole, Disks::MIB, Disks::MIB)
      window.write(0, "\7".b * Disks::MIB)

      expect(whole.read(Disks::MIB - 1, 1)).to eq("\0".b)
      expect(whole.read(2 * Disks::MIB, 1)).to eq("\0".b)
    end

    it 'cannot leave the disk' do
      expect { described_class.new(whole, 7 * Disks::MIB, 2 * Disks::MIB) }.to raise_error(Evrel::OutOfRange)
    end
  end

  describe Evrel::Disk::Paced do
    it_behaves_like('a disk') { let(:disk) { described_class.new(whole, 10**9) } }

    it 'is no faster than it says' do
      disk = described_class.new(whole, 4 * Disks::MIB)
      before = Process.clock_gettime(Process::CLOCK_MONOTONIC)
      2.times { |index| disk.write(index * Disks::MIB, "\1".b * Disks::MIB) }

      expect(Process.clock_gettime(Process::CLOCK_MONOTONIC) - before).to be >= 0.45
    end
  end

  describe Evrel::Image::Qcow2 do
    it_behaves_like('a disk to read') { let(:disk) { described_class.new(File.join(captured(three_parts), 'disk.qcow2')) } }

    it 'cannot be written' do
      disk = described_class.new(File.join(captured(three_parts), 'disk.qcow2'))
      expect { disk.write(0, 'x') }.to raise_error(Evrel::Refused)
      expect { disk.discard(0, 512) }.to raise_error(Evrel::Refused)
    end
  end
end
