# frozen_string_literal: true

RSpec.describe Evrel::Survey do
  it 'tells what lies on a disk, as plain data' do
    found = open_disk(three_parts) { |disk| described_class.of(disk) }
    expect(found).to have_attributes(table_kind: 'gpt', hosts: ['quay'], problem: nil, fingerprint: be_a(String), written_at: be_a(Time))
    expect(found.parts.map { |part| part['name'] }).to eq(%w[Start-up System Swap])
    expect(found.volumes.map { |volume| volume.values_at('kind', 'role') })
      .to eq([%w[fat32 startup], %w[ext4 system], %w[swap swap]])
    expect(found.disk_guid).to eq(run('sfdisk', '--disk-id', three_parts('again')).strip.downcase)
  end

  it 'counts a disk without a table as one part, and an empty one as none' do
    expect(open_disk(ext('bare', 64 * Disks::MIB)) { |disk| described_class.of(disk) }.parts)
      .to match([include('number' => nil, 'volume' => include('kind' => start_with('ext')))])
    expect(open_disk(sparse('empty', 64 * Disks::MIB)) { |disk| described_class.of(disk) }).to have_attributes(parts: [], problem: nil)
  end

  it 'says what cannot be trusted, or read, and what is known all the same' do
    path = three_parts
    File.binwrite(path, 'x' * 400, 512 + 60)
    File.binwrite(path, 'x' * 400, File.size(path) - 512 + 60)
    expect(open_disk(path) { |disk| described_class.of(disk) })
      .to have_attributes(parts: [], systems: [], problem: be_a(String), fingerprint: be_a(String))
    silent = open_disk(path) { |disk| described_class.of(StandIns::Disk::Faulty.new(disk, unreadable: [[0, 4096]])) }
    expect(silent).to have_attributes(parts: [], problem: /input/)
  end

  it 'loads nothing in a process of its own where all was loaded before' do
    Evrel.load_all
    path = three_parts
    ours = Evrel::Apart.call do
      before = $LOADED_FEATURES.dup
      open_disk(path) { |disk| described_class.of(disk) }
      ($LOADED_FEATURES - before).grep(%r{/evrel/})
    end
    expect(ours).to be_empty
  end
end
