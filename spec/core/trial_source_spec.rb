# frozen_string_literal: true

RSpec.describe Evrel::Image::TrialSource do
  let(:disk) { starting_disk }
  let(:kept) { Evrel::Image::Kept.new(file('kept')) }
  let(:raw) { open_disk(disk) }

  def lend(path, keys: Evrel::Keys.none, &block)
    image = Evrel::Image.open(path, keys:, kept:)
    described_class.lend(image, kept, &block)
  ensure
    image&.close
  end

  def locked(name = 'locked')
    open_disk(disk) { |opened| Evrel::Image::Capture.new(opened, file(name), about: {}, passphrase: 'tide and time').run }
    file(name)
  end

  # Where each of its parts begins, which is in every image.
  def same?(shown)
    open_disk(shown) do |lent|
      [0, *Evrel::Survey.of(raw).parts.map { |part| part['start_bytes'] }].all? { |at| lent.read(at, 65_536) == raw.read(at, 65_536) }
    end
  end

  it 'is the file itself where the emulator opens it' do
    lend(captured(disk)) { |path, format| expect([path, format]).to eq([File.realpath(File.join(file('image'), 'disk.qcow2')), 'qcow2']) }
  end

  it 'is the disk shown as a file where a passphrase opens it, and never is what is in it on a disk' do
    path = locked
    lend(path, keys: Evrel::Keys.one('tide and time')) do |shown, format|
      expect(format).to eq('raw')
      expect(File.size(shown)).to eq(raw.size)
      expect(same?(shown)).to be(true)
      expect(File.stat(File.dirname(shown)).dev).not_to eq(File.stat(shown).dev) # it is shown, and lies nowhere
    end
  end

  it 'is the disk shown as a file where it lies in several pieces' do
    size = File.size(disk) / 2
    2.times do |at|
      run('dd', "if=#{disk}", "of=#{file("piece.00#{at + 1}")}", 'bs=1M', "skip=#{at * size / Disks::MIB}", "count=#{size / Disks::MIB}",
          'conv=sparse', 'status=none')
    end
    lend(file('piece.001')) { |shown, format| expect([format, same?(shown)]).to eq(['raw', true]) }
  end

  it 'is the disk shown as a file where it builds on others: the emulator looks nothing up' do
    run('qemu-img', 'convert', '-O', 'qcow2', disk, file('base.qcow2'))
    run('qemu-img', 'create', '-q', '-f', 'qcow2', '-b', 'base.qcow2', '-F', 'qcow2', file('top.qcow2'))
    lend(file('top.qcow2')) { |shown, format| expect([format, same?(shown)]).to eq(['raw', true]) }
    lend(file('base.qcow2')) { |path, format| expect([File.basename(path), format]).to eq(%w[base.qcow2 qcow2]) }
  end

  it 'starts a locked image' do
    real_start!
    path = locked
    lend(path, keys: Evrel::Keys.one('tide and time')) do |shown, format|
      expect(Evrel::Startup::Trial.new(shown, format:, firmware: :uefi, limit: 300).run).to be_started
    end
  end
end
