# frozen_string_literal: true

require 'json'
require 'json_schemer'

RSpec.describe Evrel::Image do
  let(:disk) { three_parts }
  let(:folder) { captured(disk, 'computer' => { 'name' => 'TKT-03' }, 'note' => 'Before the season') }
  let(:qcow2) { File.join(folder, 'disk.qcow2') }

  def open_image(path = folder)
    image = described_class.open(path)
    yield image
  ensure
    image&.close
  end

  def check = open_image { |image| Evrel::Image::Check.new(image).run }

  it 'opens in ordinary tools, with the same contents' do
    expect(run('qemu-img', 'check', qcow2)).to include('No errors')
    expect(run('qemu-img', 'compare', disk, qcow2)).to include('identical')
    expect(run('sha256sum', '-c', 'SHA256SUMS', chdir: folder)).to include('disk.qcow2: OK')
  end

  def run(*command, chdir: nil, input: '')
    return super(*command, input:) unless chdir

    Dir.chdir(chdir) { super(*command, input:) }
  end

  it 'keeps what is used and little else' do
    image = JSON.parse(run('qemu-img', 'info', '--output=json', qcow2))
    expect(image).to include('virtual-size' => File.size(disk))
    expect(image.dig('format-specific', 'data', 'compression-type')).to eq('zstd')
    stored = JSON.parse(run('qemu-img', 'map', '--output=json', qcow2)).select { |run| run['data'] }.sum { |run| run['length'] }
    used = open_image { |opened| opened.manifest.used_bytes }
    expect(stored).to be < used + (40 * Evrel::Image::CLUSTER)
  end

  it 'reads at random what the disk holds' do
    raw = open_disk(disk)
    open_image do |image|
      random = Random.new(5)
      60.times do
        offset = random.rand(raw.size - 300_000)
        length = random.rand(1..300_000)
        expect(image.disk.read(offset, length)).to eq(raw.read(offset, length))
      end
      expect(image.table.guid).to eq(Evrel::Table.read(raw).guid)
    end
  end

  it 'has a manifest that fits its schema and says what was on the disk' do
    schema = JSONSchemer.schema(JSON.parse(File.read(File.expand_path('../../docs/manifest.schema.json', __dir__))))
    document = JSON.parse(File.read(File.join(folder, 'manifest.json')))
    expect(schema.validate(document).map { |error| error['error'] }).to be_empty
    expect(document['computer']).to eq('name' => 'TKT-03')
    expect(document['table']['partitions'].map { |part| [part['role'], part['volume']['kind']] })
      .to eq([%w[startup fat32], %w[system ext4], %w[swap swap]])
    expect(document['used_bytes']).to eq(document['table']['partitions'].sum { |part| part['volume']['used_bytes'] })
  end

  it 'has a layout from which sfdisk makes the same table' do
    again = sparse('again', File.size(disk))
    run('sfdisk', '-q', again, input: File.read(File.join(folder, 'layout.sfdisk')))
    expect(open_disk(again) { |opened| Evrel::Table.read(opened).partitions.map(&:to_h) })
      .to eq(open_disk(disk) { |opened| Evrel::Table.read(opened).partitions.map(&:to_h) })
  end

  it 'finds every wrong byte, by cluster and part' do
    expect(check).to be_whole
    # The last compressed bytes before the tables belong to the last clusters.
    flip(qcow2, Evrel::Image::CLUSTER + 5000)
    result = check
    expect(result).not_to be_whole
    expect(result.places).to all(include(:cluster, :offset, :reason))
    expect(result.damaged).to eq(result.places.size).and be_between(1, 3)
  end

  it 'finds a changed manifest' do
    path = File.join(folder, 'manifest.json')
    File.write(path, File.read(path).sub('Before', 'After'))
    expect(check.files).to eq(['manifest.json does not match its checksum'])
  end

  it 'leaves nothing behind when it cannot be finished, and overwrites nothing' do
    captured(disk)
    expect { captured(disk) }.to raise_error(Evrel::Refused, /there already/)
    broken = three_parts('broken.raw')
    source = open_disk(broken)
    File.truncate(broken, 100 * Disks::MIB)
    expect { Evrel::Image::Capture.new(source, file('half')).run }.to raise_error(Evrel::Unreadable)
    expect(Dir.children(@folder).grep(/half/)).to be_empty
  end

  it 'says what a folder lacks' do
    File.delete(File.join(folder, 'clusters.b3'))
    expect { described_class.open(folder) }.to raise_error(Evrel::Unreadable, /clusters\.b3/)
    expect { described_class.open(@folder) }.to raise_error(Evrel::Unreadable, /manifest/)
    expect { described_class.open(file('nowhere')) }.to raise_error(Evrel::Unreadable, /not there/)
  end

  {
    'no JSON' => 'x', 'an array' => '[]', 'another format' => '{"format":"x"}',
    'no numbers' => '{"format":"evrel-image","version":1}',
    'a text for a number' => '{"format":"evrel-image","version":1,"disk":{"size_bytes":"9","logical_sector":512}}'
  }.each do |name, text|
    it "answers a manifest that is #{name} with a typed error" do
      File.write(File.join(folder, 'manifest.json'), text)
      expect { described_class.open(folder) }.to raise_error(Evrel::Damaged)
    end
  end

  {
    'a part without a beginning' => ->(part) { part.delete('start_bytes') },
    'a part of less than no bytes' => ->(part) { part['size_bytes'] = -1 },
    'a text for what is used of a part' => ->(part) { part['volume']['used_bytes'] = 'all' },
    'a text for a volume' => ->(part) { part['volume'] = 'ext4' },
    'a text for its doubts' => ->(part) { part['volume']['doubts'] = 'many' }
  }.each do |name, spoil|
    it "answers a manifest that has #{name} with a typed error" do
      document = JSON.parse(File.read(File.join(folder, 'manifest.json')))
      spoil.call(document['table']['partitions'].find { |part| part['role'] == 'system' })
      expect { Evrel::Image::Manifest.parse(JSON.generate(document)) }.to raise_error(Evrel::Damaged, /partition that is not built/)
    end
  end

  it 'reads qcow2 files of other tools, plain and compressed, old and new' do
    %w[compat=0.10 compat=1.1 compat=1.1,cluster_size=4k compression_type=zstd].each_with_index do |options, index|
      [[], ['-c']].each do |compressed|
        path = file("theirs-#{index}#{compressed.first}")
        run('qemu-img', 'convert', '-O', 'qcow2', *compressed, '-o', options, disk, path)
        theirs = Evrel::Image::Qcow2.new(open_disk(path, logical_sector: 1), name: path)
        raw = open_disk(disk)
        [0, Disks::MIB, 66 * Disks::MIB, raw.size - 5000].each do |offset|
          expect(theirs.read(offset, 5000)).to eq(raw.read(offset, 5000))
        end
      end
    end
  end

  it 'stays readable where it was taken before maps were proved, and says that something may be missing' do
    path = File.join(captured(disk), 'manifest.json')
    old = JSON.parse(File.read(path)).except('left_out').merge('version' => 1)
    File.write(path, JSON.generate(old))
    opened = Evrel::Image.open(File.dirname(path))
    expect(opened.manifest).to be_unproved
    expect(Evrel::Image::Structure.notes(opened)).to include(/taken before maps of used blocks were proved/)
    target = sparse('target', File.size(disk))
    expect(restore(File.dirname(path), target)).to be_verified
    newer = Evrel::Image::Manifest.parse(JSON.generate(old.merge('version' => 2)))
    expect(newer).not_to be_unproved
    expect { Evrel::Image::Manifest.parse(JSON.generate(old.merge('version' => 4))) }.to raise_error(Evrel::Unsupported, /version 4/)
  end

  it 'is of the whole of a disk whose table lies, and says so' do
    [512, File.size(disk) - 512].each { |header| flip(disk, header + 60) }
    document = Evrel::Image.open(captured(disk)).manifest
    expect(document).to have_attributes(table?: false, left_out: [])
    expect(document.parts).to match([include('damage' => /both copies/, 'volume' => include('kind' => 'unknown', 'clean' => nil))])
    target = sparse('target', File.size(disk))
    expect(restore(file('image'), target)).to be_verified
    expect(content?('cmp', disk, target)).to be(true)
  end
end
