# frozen_string_literal: true

RSpec.describe Evrel::Upkeep do
  let(:path) { three_parts }

  def on(path, **faults)
    open_disk(path, writable: true) { |disk| yield(faults.empty? ? disk : StandIns::Disk::Faulty.new(disk, **faults)) }
  end

  describe Evrel::Upkeep::Clean do
    def clean(how, **faults) = on(path, **faults) { |disk| described_class.new(disk, how).run }

    it 'takes away table and signatures, so that no tool finds any' do
      expect(clean('signatures')).to be_verified
      expect(run('wipefs', path)).to eq('')
      [1, 65, 465].each { |mib| expect(run('wipefs', part(mib))).to eq('') }
    end

    def part(mib)
      file("part-#{mib}").tap do |copy|
        run('dd', "if=#{path}", "of=#{copy}", 'bs=1M', "skip=#{mib}", 'count=30', 'conv=sparse', 'status=none')
      end
    end

    it 'empties all of it, by discarding or overwriting' do
      %w[discard overwrite].each do |how|
        copy = file(how)
        run('cp', '--sparse=always', path, copy)
        result = on(copy) { |disk| described_class.new(disk, how).run }
        expect(result).to have_attributes(how:, checked: File.size(path), left: nil)
        expect(run('cmp', copy, sparse("zeros-#{how}", File.size(path)))).to eq('')
      end
    end

    it 'says where something is left on a drive that does not take it' do
      at = Disks::MIB + 100
      result = clean('overwrite', flips: [[at, 16]])
      expect(result).to have_attributes(verified?: false, left: at)
    end

    it 'stops when it is asked to, and knows no other way' do
      expect { on(path) { |disk| described_class.new(disk, 'overwrite').run { :stop } } }.to raise_error(Evrel::Stopped)
      expect { described_class.new(nil, 'sweep') }.to raise_error(ArgumentError)
    end
  end

  describe Evrel::Upkeep::CapacityTest do
    before { stub_const("#{described_class}::STEPS", [32 * Disks::MIB, 10**7]) }

    def test(path, **faults) = on(path, **faults) { |disk| described_class.new(disk).run }

    it 'finds a true drive true, and leaves every byte as it was' do
      before = run('sha256sum', path)
      expect(test(path)).to have_attributes(state: :whole, places: be > 20, message: /was read back/)
      expect(run('sha256sum', path)).to eq(before)
      expect(test(sparse('blank', 600 * Disks::MIB))).to have_attributes(state: :whole)
    end

    it 'finds one that begins anew, with or without a table on it, and harms nothing' do
      before = run('sha256sum', path)
      size = 512 * Disks::MIB
      expect(test(path, true_capacity: size)).to have_attributes(state: :short, true_capacity: size, message: /begins anew/)
      expect(run('sha256sum', path)).to eq(before)
      expect(test(sparse('blank', 600 * Disks::MIB), true_capacity: 256 * Disks::MIB)).to have_attributes(state: :short)
    end

    it 'finds one that keeps nothing behind its true end' do
      lossy = Class.new(Evrel::Disk::Wrapper) do
        def read_bytes(offset, length) = offset >= 300 * (1024**2) ? "\0".b * length : super
      end
      result = on(sparse('blank', 600 * Disks::MIB)) { |disk| described_class.new(lossy.new(disk)).run }
      expect(result).to have_attributes(state: :short, true_capacity: be_between(250 * (10**6), 320 * (10**6)))
    end

    it 'says that it cannot know where nothing is free' do
      full = sparse('full', 64 * Disks::MIB)
      run('dd', 'if=/dev/urandom', "of=#{full}", 'bs=1M', 'count=64', 'conv=notrunc', 'status=none')
      expect(test(full)).to have_attributes(state: :unknown, message: /no free room/)
    end
  end

  describe Evrel::Upkeep::WholeTest do
    def test(path, **faults) = on(path, **faults) { |disk| described_class.new(disk).run }

    it 'finds where a drive begins anew, wherever that is, and a true one true' do
      [(330 * Disks::MIB) + 4096, 301 * (10**6) / 4096 * 4096, 512 * Disks::MIB].each do |true_capacity|
        expect(test(sparse("false-#{true_capacity}", 700 * (10**6) / 512 * 512),
                    true_capacity:)).to have_attributes(state: :short, true_capacity:)
      end
      expect(test(path)).to have_attributes(state: :whole, places: be > 500)
      expect(open_disk(path) { |disk| Evrel::Table.read(disk) }).to be_nil
    end
  end

  describe StandIns::Disk::Faulty do
    it 'fails where it is bad, lies where it flips, and begins anew behind its true end' do
      on(path, unreadable: [[1000, 100]], flips: [[5000, 2]], true_capacity: 100 * Disks::MIB) do |disk|
        plain = File.binread(path, 10_000)
        expect(disk.read(0, 1000)).to eq(plain[0, 1000])
        expect { disk.read(900, 101) }.to raise_error(Evrel::Unreadable)
        expect(disk.read(4999, 4).bytes).to eq([plain.getbyte(4999), plain.getbyte(5000) ^ 1, plain.getbyte(5001) ^ 1, plain.getbyte(5002)])
        expect(disk.read((100 * Disks::MIB) + 10, 50)).to eq(plain[10, 50])
      end
    end

    it 'falls silent after so many bytes, and tells of it once' do
      told = 0
      open_disk(path, writable: true) do |disk|
        faulty = described_class.new(disk, gives_out_after: 10_000) { told += 1 }
        faulty.write(0, 'x' * 9000)
        3.times { expect { faulty.read(0, 2000) }.to raise_error(Evrel::Unreadable, /does not answer/) }
      end
      expect(told).to eq(1)
    end
  end
end
