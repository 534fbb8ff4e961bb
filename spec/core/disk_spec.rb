# frozen_string_literal: true

require_relative '../../stand_ins/bench'

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

  describe Evrel::Disk::Wrapper do
    it_behaves_like('a disk') { let(:disk) { described_class.new(whole) } }

    it 'shows tools what is read through it, not the file behind' do
      whole.write(0, "\1".b * 8192)
      other = Class.new(described_class) { def read_bytes(offset, length) = super.tr("\1", "\2") }.new(whole)
      expect(other.as_file { |path| File.binread(path, 100) }).to eq("\2".b * 100)
    end
  end

  # What stands before the bytes of a stand-in drive, and of a target.
  describe 'wrappers' do
    let(:bytes_behind) { File.binread(path) }
    let(:silent) { StandIns::Disk::Faulty.new(whole, gives_out_after: 0).tap { |disk| ignored { disk.read(0, 1) } } }
    let(:bench) { StandIns::Bench.new(file('bench')) }

    before { whole.write(0, Random.new(1).bytes(5 * Disks::MIB)) }

    def ignored
      yield
    rescue Evrel::Away
      nil
    end

    def line
      bench.make({ 'serial' => 'A', 'capacity' => 8 * Disks::MIB })
      bench.plug('A', '1')
      StandIns::Disk::Line.new(whole, bench, 'A', '1')
    end

    describe StandIns::Disk::Faulty do
      it_behaves_like('a disk') { let(:disk) { described_class.new(whole) } }
      it_behaves_like('a wrapper that nothing is slipped past') { let(:disk) { silent } }
    end

    describe StandIns::Disk::Line do
      it_behaves_like('a disk') { let(:disk) { line } }
      it_behaves_like('a wrapper that nothing is slipped past') { let(:disk) { line.tap { bench.pull('1') } } }
    end

    describe Evrel::Restore::Steady do
      let(:patient) { Evrel::Restore::Retry.new([]) }

      it_behaves_like('a disk') { let(:disk) { described_class.new(whole, patient) } }
      it_behaves_like('a wrapper that nothing is slipped past') { let(:disk) { described_class.new(silent, patient) } }
    end

    describe StandIns::Disk::Paced do
      it_behaves_like('a disk') { let(:disk) { described_class.new(whole, 10**9) } }
      it_behaves_like('a wrapper that nothing is slipped past') { let(:disk) { described_class.new(silent, 10**9) } }

      { read: [0, 1_000_000], read_into: [+'', 0, 1_000_000], write: [0, '1' * 1_000_000], zero: [0, 1_000_000] }.each do |name, given|
        it "is no faster than it says: #{name}" do
          disk = described_class.new(whole, 4_000_000)
          before = Process.clock_gettime(Process::CLOCK_MONOTONIC)
          2.times { disk.public_send(name, *given) }
          expect(Process.clock_gettime(Process::CLOCK_MONOTONIC) - before).to be >= 0.45
        end
      end
    end
  end

  describe Evrel::Image::Qcow2 do
    def opened(path) = described_class.new(open_disk(path, logical_sector: 1), name: path)

    it_behaves_like('a disk to read') { let(:disk) { opened(File.join(captured(three_parts), 'disk.qcow2')) } }

    it 'cannot be written' do
      disk = opened(File.join(captured(three_parts), 'disk.qcow2'))
      expect { disk.write(0, 'x') }.to raise_error(Evrel::Refused)
      expect { disk.discard(0, 512) }.to raise_error(Evrel::Refused)
    end
  end

  describe 'a chain of qcow2 files' do
    it_behaves_like('a disk to read') do
      let(:disk) do
        run('qemu-img', 'convert', '-O', 'qcow2', '-o', 'cluster_size=4k', three_parts, file('base.qcow2'))
        run('qemu-img', 'create', '-q', '-f', 'qcow2', '-b', 'base.qcow2', '-F', 'qcow2', file('top.qcow2'))
        run('qemu-io', '-c', 'write -P 7 1M 300k', '-c', 'write -z 66M 64k', file('top.qcow2'))
        Evrel::Image.open(file('top.qcow2')).disk
      end
    end
  end

  describe Evrel::Disk::Joined do
    it_behaves_like('a disk to read') do
      let(:disk) do
        run('split', '-b', '3000001', '-d', three_parts('small', size: 520 * Disks::MIB), file('piece.'))
        joined = described_class.new(Dir[file('piece.*')].first(100).map { |path| open_disk(path, logical_sector: 1) })
        Evrel::Disk::Window.new(joined, 0, joined.size / 512 * 512, logical_sector: 512)
      end
    end
  end

  describe Evrel::Disk::Nbd do
    it_behaves_like('a disk to read') do
      let(:disk) do
        run('qemu-img', 'convert', '-O', 'vdi', three_parts, file('disk.vdi'))
        described_class.new(file('disk.vdi'), 'vdi')
      end
      after { disk.close }
    end
  end

  describe Evrel::Disk::Web do
    let(:disk) do
      FileUtils.mkdir_p(file('web'))
      FileUtils.mv(three_parts, file('web/disk'))
      Evrel::Image::Opener.new(Evrel::Shelf::Web.new(served(file('web')), networks: ['127.0.0.1']), 'disk').open.disk
    end

    it_behaves_like 'a disk to read'

    it 'gives nobody the answer that another did not wait for' do
      noise = Random.new(5).bytes(40 * Disks::MIB) # more than it keeps
      FileUtils.mkdir_p(file('web'))
      File.binwrite(file('web/noise'), noise)
      web = Evrel::Shelf::Web.new(served(file('web')), networks: ['127.0.0.1']).open('noise')
      20.times do |number|
        reader = Thread.new { (0...40).cycle { |place| web.read(place * Disks::MIB, 512) } }
        sleep(0.001 * number)
        reader.kill.join
        expect(web.read(number * Disks::MIB, 512) == noise[number * Disks::MIB, 512]).to be(true), "place #{number}"
      end
    end
  end
end
