# frozen_string_literal: true

require 'json'

RSpec.describe Evrel::Table::Gpt do
  let(:script) do
    <<~SCRIPT
      label: gpt
      size=8M, type=U, name="Start-up", attrs="RequiredPartition"
      size=20M, type=4F68BCE3-E8CD-4DB1-96E7-FBCAF984B709, name="Sälen"
      size=4M, type=DE94BBA4-06D1-4D40-A16A-BFD50179D6AC
    SCRIPT
  end
  let(:path) { partitioned('disk', 64 * Disks::MIB, script) }

  def judge(disk) = JSON.parse(run('sfdisk', '--json', disk))['partitiontable']

  def read(disk = path) = open_disk(disk) { |opened| described_class.read(opened) }

  # Both sector sizes, judged on a loop device of that size.
  [512, 4096].each do |sector|
    it "reads and writes tables with sectors of #{sector} bytes" do
      skip 'loop devices need root' unless Process.uid.zero?

      sparse('disk', 64 * Disks::MIB).tap { |disk| on_loop(disk, sector) { |device| run('sfdisk', '-q', device, input: script) } }
      table = read(file('disk'))
      expect(table).to have_attributes(sector:, findings: be_empty)
      expect(table.partitions.map(&:size)).to eq([8, 20, 4].map { |size| size * Disks::MIB })
      expect(table.partitions.map(&:role)).to eq(%i[startup system recovery])
      expect(table.partitions.map(&:name)).to eq(['Start-up', 'Sälen', ''])

      larger = sparse('larger', 96 * Disks::MIB)
      open_disk(larger, writable: true, logical_sector: sector) { |disk| table.for_disk(disk.size).write(disk) }
      on_loop(larger, sector) { |device| expect(run('sfdisk', '--verify', device)).to include('No errors detected') }
    end
  end

  def on_loop(path, sector)
    device = run('losetup', '--find', '--show', '--sector-size', sector.to_s, path).strip
    yield device
  ensure
    run('losetup', '--detach', device) if device
  end

  it 'agrees with sfdisk on every number' do
    theirs = judge(path)
    table = read
    expect(table.guid).to eq(theirs['id'].downcase)
    expect([table.first_usable, table.last_usable]).to eq(theirs.values_at('firstlba', 'lastlba'))
    expect(table.partitions.map { |part| [part.first_lba, part.last_lba - part.first_lba + 1, part.guid, part.type] })
      .to eq(theirs['partitions'].map { |part| [part['start'], part['size'], part['uuid'].downcase, part['type'].downcase] })
    expect(table.partitions.first.attributes).to eq(1)
  end

  it 'writes a table that the judges accept, with its backup at the real end' do
    target = sparse('larger', 200 * Disks::MIB)
    open_disk(target, writable: true) { |disk| read.for_disk(disk.size).write(disk) }

    expect(run('sgdisk', '-v', target)).to include('No problems found')
    expect(content?('sfdisk', '--verify', target)).to be(true)
    expect(judge(target)['lastlba']).to eq((200 * 2048) - 34)
    expect(judge(target)['partitions'].map { |part| part.except('node') }).to eq(judge(path)['partitions'].map { |part|
      part.except('node')
    })
  end

  it 'gives a script from which sfdisk makes the same table' do
    again = sparse('again', 64 * Disks::MIB)
    run('sfdisk', '-q', again, input: Evrel::Table::SfdiskScript.dump(read))
    expect(judge(again).except('device', 'partitions')).to eq(judge(path).except('device', 'partitions'))
    expect(judge(again)['partitions'].map { |part| part.except('node') }).to eq(judge(path)['partitions'].map { |part|
      part.except('node')
    })
  end

  it 'uses the backup where the primary is broken, and says so' do
    flip(path, 512 + 60)
    table = read
    expect(table.source).to eq(:backup)
    expect(table.findings).to include(/primary copy: header checksum/)
    expect(table.partitions.size).to eq(3)
  end

  it 'uses the backup where the primary entries are broken or wiped' do
    flip(path, 1024 + 300)
    expect(read.source).to eq(:backup)
    File.binwrite(path, "\0" * 1024, 512)
    expect(read.source).to eq(:backup)
  end

  it 'notes a broken backup' do
    flip(path, (64 * Disks::MIB) - 512 + 20)
    expect(read).to have_attributes(source: :primary, findings: include(/backup copy/))
  end

  it 'names what is wrong where both copies are broken' do
    flip(path, 512 + 60)
    flip(path, (64 * Disks::MIB) - 512 + 60)
    expect { read }.to raise_error(Evrel::Damaged, /both copies/)
  end

  it 'finds none on an empty disk or a disk that is smaller than a table' do
    expect(read(sparse('empty', Disks::MIB))).to be_nil
    expect(read(sparse('tiny', 512))).to be_nil
  end

  it 'does not fit a disk on which a partition would be cut' do
    expect { read.for_disk(32 * Disks::MIB) }.to raise_error(Evrel::DoesNotFit, /partition 3/)
  end

  # A table whose checksums are right and whose numbers lie.
  describe 'lies' do
    def lie
      disk = open_disk(path, writable: true)
      table = described_class.read(disk)
      yield table
      table.write(disk)
      disk.close
    end

    it('overlaps are named') do
      lie { |table| table.partitions[1].first_lba = table.partitions[0].last_lba }
      expect { read }.to raise_error(Evrel::Damaged, /partitions 1 and 2 overlap/)
    end

    it('partitions outside of the disk are named') do
      lie { |table| table.partitions[2].last_lba = 10**12 }
      expect { read }.to raise_error(Evrel::Damaged, /partition 3/)
    end

    it('partitions that end before they begin are named') do
      lie { |table| table.partitions[0].last_lba = table.partitions[0].first_lba - 1 }
      expect { read }.to raise_error(Evrel::Damaged, /partition 1/)
    end

    it('an absurd number of entries is not read') do
      [512, (64 * Disks::MIB) - 512].each do |offset|
        header = Evrel::Table::GptHeader.read(File.binread(path, 512, offset))
        header.entry_count = 0xFFFF_FFFF
        header.header_crc = 0
        header.header_crc = Zlib.crc32(header.to_binary_s)
        File.binwrite(path, header.to_binary_s, offset)
      end
      expect { read }.to raise_error(Evrel::Damaged, /entries/)
    end
  end
end
