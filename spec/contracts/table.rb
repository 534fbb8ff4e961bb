# frozen_string_literal: true

# What every kind of partition table promises to those who fit, write and show it.
# The including group defines `path`, of a disk with three partitions at least.
RSpec.shared_examples 'a table' do
  let(:size) { File.size(path) }
  let(:table) { open_disk(path) { |disk| Evrel::Table.read(disk) } }

  def written(table, to)
    open_disk(to, writable: true) { |disk| table.write(disk) }
    open_disk(to) { |disk| Evrel::Table.read(disk) }
  end

  def told(table) = table.partitions.map { |part| [part.number, part.first_lba, part.last_lba, part.type, part.guid, part.name] }

  it 'says what it is, whence it was read, and what was wrong with it' do
    expect(%w[gpt mbr]).to include(table.kind)
    expect(table).to have_attributes(sector: 512, guid: be_a(String), findings: [], source: :primary)
  end

  it 'has partitions in the order of their numbers, each within what can be used, none over another' do
    parts = table.partitions
    expect(parts.map(&:number)).to eq(parts.map(&:number).sort.uniq)
    expect(parts.flat_map { |part| [part.first_lba, part.last_lba] }).to all(be_between(table.first_usable, table.last_usable))
    expect { Evrel::Table.check_overlaps(parts) }.not_to raise_error
    expect(parts).to all(have_attributes(type: be_a(String), type_name: be_a(String), guid: be_a(String), name: be_a(String)))
  end

  it 'is the same when it has been written to another disk, and the judge of tables says so' do
    target = sparse('target', size)
    expect(told(written(table, target))).to eq(told(table))
    expect(run('sfdisk', '--dump', target).lines.grep(/start=/).map { |line| line[/start= *\d+, size= *\d+, type=[^,\s]+/] })
      .to eq(run('sfdisk', '--dump', path).lines.grep(/start=/).map { |line| line[/start= *\d+, size= *\d+, type=[^,\s]+/] })
  end

  it 'goes to a larger disk with the same partitions, and up to its end' do
    target = sparse('larger', size * 2)
    larger = table.for_disk(size * 2)
    expect(told(larger)).to eq(told(table))
    expect(larger.last_usable).to be > table.last_usable
    expect(told(written(larger, target))).to eq(told(table))
    expect(content?('sfdisk', '--verify', target)).to be(true)
  end

  it 'refuses a disk that a partition would leave, and names the partition' do
    last = table.partitions.max_by(&:last_lba)
    expect { table.for_disk(last.end - 512) }.to raise_error(Evrel::DoesNotFit, /partition #{last.number}/)
  end

  it 'tells its pieces in bytes of the disk; the one that makes the table valid comes last' do
    pieces = table.pieces(size)
    expect(pieces).to all(satisfy { |offset, bytes| offset >= 0 && offset + bytes.bytesize <= size })
    expect(pieces.last.first).to eq(0)
    target = sparse('cut', size)
    open_disk(target, writable: true) { |disk| pieces[0..-2].each { |offset, bytes| disk.write(offset, bytes) } }
    expect(run('sfdisk', '--list', target)).not_to match(/^#{Regexp.escape(target)}\d/) if table.kind == 'mbr'
  end

  it 'says where loaders put their code: in front of every partition, or nowhere' do
    offset, length = table.code_area
    next expect(offset).to be_nil unless offset

    expect(offset).to be >= table.sector
    expect(offset + length).to be <= table.partitions.map(&:start).min
  end
end
