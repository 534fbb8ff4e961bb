# frozen_string_literal: true

require 'timeout'
require_relative '../support/spoiled_disk'

# Every input may lie: a typed error or a true answer, never anything else.
RSpec.describe 'Hostile input' do
  it 'takes a name behind the end of what holds it for an empty one' do
    attribute = [0x80, 24, 0, 4, 200, 0].pack('VVCCvv').ljust(24, "\0".b)
    expect(Evrel::Volume::NtfsAttribute.new(attribute, 'record 5').name).to eq('')
    expect(Evrel::Image::VmdkDescriptor.check(SpoiledDisk.new("\0".b * 512, {}), 'empty.vmdk')).to all(be_a(String))
  end

  # Reads everything that there is to read.
  def exhaust(path)
    open_disk(path) do |disk|
      map = Evrel::Image::UsedMap.new(disk)
      Evrel::Image::Description.of(map)
      map.all.map(&:volume).select(&:browsable?).each do |volume|
        volume.each_entry.first(500).select(&:file?).each { |entry| volume.file_head(entry.path, 100_000) }
      end
    end
  end

  def expect_honest(path)
    Timeout.timeout(60) { exhaust(path) }
  rescue Evrel::Error
    nil
  end

  {
    'tables' => -> { [three_parts, [0..17_407]] },
    'ext superblocks, groups and inodes' => -> { [ext('v', 30 * Disks::MIB, '-t', 'ext4'), [1024..2047, 4096..8191, 8192..400_000]] },
    'ext block maps' => -> { [ext('v', 30 * Disks::MIB, '-t', 'ext2', '-b', '1024'), [1024..2047, 2048..4095, 4096..300_000]] },
    'FAT12' => -> { [fat('v', 2 * Disks::MIB, 12), [0..90, 512..60_000]] },
    'FAT32' => -> { [fat('v', 64 * Disks::MIB, 32), [0..90, 16_384..40_000, 80_000..250_000]] }
  }.each do |name, make|
    it "with flipped bytes in #{name} ends in a typed error or an answer" do
      source, places = instance_exec(&make)
      40.times { |seed| flipped(source, places, seed).then { |copy| expect_honest(copy) && File.delete(copy) } }
    end
  end

  it 'with truncated disks ends in a typed error or an answer' do
    source = three_parts
    [0, 511, 512, 600, 1024, 4096, 17_408, Disks::MIB, Disks::MIB + 700, 66 * Disks::MIB].each do |size|
      copy = file("cut-#{size}")
      run('cp', '--sparse=always', source, copy)
      File.truncate(copy, size)
      expect_honest(copy)
    end
  end

  it 'with flipped bytes in an image ends in a typed error, and the check finds every wrong cluster' do
    source = captured(three_parts)
    qcow2 = File.join(source, 'disk.qcow2')
    whole = File.binread(qcow2)
    25.times do |seed|
      random = Random.new(seed)
      bytes = whole.dup
      places = [0..111, 0...whole.bytesize]
      2.times { bytes.setbyte(random.rand(places.sample(random:)), random.rand(256)) }
      File.binwrite(qcow2, bytes)
      outcome = Timeout.timeout(60) { check(source) }
      expect(outcome).to be_a(Evrel::Error).or eq(true).or eq(false)
      expect(outcome).to be(true) if bytes == whole
    end
  end

  def check(source)
    image = Evrel::Image.open(source)
    Evrel::Image::Check.new(image).run.whole?
  rescue Evrel::Error => e
    e
  ensure
    image&.close
  end
end
