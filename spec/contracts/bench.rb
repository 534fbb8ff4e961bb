# frozen_string_literal: true

# What every kind of bench promises to the application. The including group
# defines `bench`, with a drive at least in one port.
RSpec.shared_examples 'a bench' do
  let(:drive) { bench.drives.first }

  it 'has a name, and ports, each with one drive at most' do
    expect(bench.name).to match(/\A\S+\z/)
    expect(bench.port_names).to all(be_a(String))
    expect(bench.drives.map(&:port)).to all(satisfy { |port| bench.port_names.include?(port) })
    expect(bench.drives.map(&:slot).uniq.size).to eq(bench.drives.size)
  end

  it 'shows drives as values that say what they are' do
    expect(drive).to be_a(Evrel::Bench::Drive)
    expect(drive).to have_attributes(bench:, key: be_a(String), capacity: be_positive, bus: be_a(String), stamp: be_a(String))
    expect(drive.sectors * drive.logical_sector).to eq(drive.capacity)
    expect(drive.health).to respond_to(:state)
    expect(drive.inspect).not_to include(drive.serial)
  end

  it 'opens a drive for reading, and for writing only when that is asked for' do
    disk = drive.open
    expect([disk.size, disk.writable?]).to eq([drive.capacity, false])
    expect { disk.write(0, 'x') }.to raise_error(Evrel::Refused)
    disk.close
    disk = drive.open(writable: true)
    disk.write(0, 'written')
    disk.flush
    expect(disk.read(0, 7)).to eq('written')
    disk.close
  end

  it 'changes the stamp of a drive whenever its contents have changed' do
    before = drive.stamp
    disk = drive.open(writable: true)
    disk.write(8 * (1024**2), Random.new(1).bytes(70_000))
    disk.close
    expect(bench.drives.first.stamp).not_to eq(before)
  end

  it 'locks a drive to a docket: nobody else writes to it' do
    bench.lock(drive, 'D-0001')
    expect(bench.lock_on(drive)).to eq('D-0001')
    expect { drive.open(writable: true) }.to raise_error(Evrel::Refused, /D-0001/)
    expect { drive.open(writable: true, docket: 'D-0002') }.to raise_error(Evrel::Refused)
    drive.open(writable: true, docket: 'D-0001').close
    drive.open.close
    bench.lock(drive, nil)
    expect(bench.lock_on(drive)).to be_nil
  end

  it 'lends its bytes to tools as a file' do
    drive.as_file { |path| expect(File.binread(path, 512, 0).bytesize).to eq(512) }
  end

  it 'counts its moves, and tells those after one' do
    all = bench.moves(since: 0)
    expect(all.map(&:number)).to eq((1..all.size).to_a)
    expect(bench.last_move).to eq(all.size)
    expect(bench.moves(since: bench.last_move)).to eq([])
    expect(all).to all(have_attributes(what: be_a(Symbol), at: be_a(Time)))
  end

  it 'says what it offers by name, and answers to what it offers' do
    answers = { handling: %i[plug pull swap spare handle_drive switches port_of], computers: %i[computers handle_computer change_computer] }
    expect(bench.offers - answers.keys).to eq([])
    answers.each do |what, methods|
      expect(bench.offers?(what)).to be(bench.offers.include?(what))
      expect(methods.all? { |name| bench.respond_to?(name) }).to be(true) if bench.offers?(what)
    end
    expect(bench.spare).to be_an(Array)
  end
end
