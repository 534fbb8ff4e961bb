# frozen_string_literal: true

require_relative 'app_helper'

# The bench as hands would use it, and what is done to drives beside restoring.
RSpec.describe 'The bench' do
  before { sign_in }

  def message = JSON.parse(last_response.body).values_at('message', 'hint').compact.join('; ')
  def in_port(port, answer = call(:get, '/bench')) = answer['ports'].find { |one| one['port'] == port }['drive']
  def replacement = drive(Requests::REPLACEMENT)

  it 'shows each drive with its health, its record and what may be done' do
    shown = in_port('3')
    expect(shown).to include('serial' => Requests::REPLACEMENT, 'health' => include('state' => 'good', 'wear' => 2), 'refused' => nil,
                             'decisions' => [include('id' => 'contents')], 'protection' => nil)
    expect(in_port('2')['refused']).to include('title' => 'Holds images')
    expect(in_port('4')).to include('owner' => 'TKT-03', 'hosts' => ['TKT-03'], 'started_at' => be_a(String),
                                    'health' => include('state' => 'worn', 'pending' => 212))
    expect(in_port('5')).to be_nil
  end

  it 'is looked at before somebody asks' do
    AttachedDrives::CACHE.clear
    AttachedDrives.read_ahead.join
    expect(AttachedDrives::CACHE.keys).to include(*AttachedDrives.list.map { |one| [one.bench.name, one.handle] })
  end

  it 'is handled: pulled, plugged elsewhere, swapped' do
    bench = call(:post, '/bench/ports/3/pull')
    expect(in_port('3', bench)).to be_nil
    expect(bench['spare']).to eq([{ 'name' => Requests::REPLACEMENT, 'bench' => 'bench-test', 'serial' => Requests::REPLACEMENT,
                                    'maker' => 'Tarn', 'model' => 'Flux SSD', 'bus' => 'SATA', 'capacity' => 480_103_981_056 }])
    call(:post, '/bench/ports/1/plug', name: Requests::REPLACEMENT)
    expect([status, message]).to match([409, /port 1 is taken/])
    expect(in_port('6', call(:post, '/bench/ports/6/plug', name: Requests::REPLACEMENT))).to include('serial' => Requests::REPLACEMENT)
    swapped = call(:post, '/bench/swap', ports: %w[1 6])
    expect([in_port('1', swapped), in_port('6', swapped)].map { |one| one['serial'] }).to eq([Requests::REPLACEMENT, 'TF48-2209-7Q1F'])
    [%w[ports/9/pull], ['ports/4/plug', { name: 'nothing' }], ['ports/x/plug', { name: 'nothing' }],
     ['swap', { ports: %w[1 1] }]].each do |path, body|
      call(:post, "/bench/#{path}", **body.to_h)
      expect(status).to be_between(404, 409)
    end
    sightings = call(:get, "/drives/#{replacement.id}")['sightings'].map { |one| one['port'] }
    expect(sightings.first(3)).to eq(%w[1 6 3])
  end

  it 'lets stand-ins fail, and takes no nonsense' do
    name = Requests::REPLACEMENT
    changed = call(:post, "/bench/stand-ins/#{name}", read_only: true, faults: { unreadable: [[0, 512]] })
    expect(in_port('3', changed)).to include('read_only' => true, 'problem' => /input/, 'refused' => include('title' => 'Read-only'))
    expect(in_port('3', call(:post, "/bench/stand-ins/#{name}", read_only: false, faults: {}))).to include('problem' => nil)
    [{}, { capacity: 5 }, { faults: { unreadable: [[1]] } }, { faults: { dies_after: -1 } }, { faults: { odd: 1 } }].each do |odd|
      call(:post, "/bench/stand-ins/#{name}", **odd)
      expect([odd, status]).to eq([odd, 409])
    end
    computer = call(:post, '/bench/computers/TKT-03', on: true, boot_order: %w[network])['computers'].first
    expect(computer).to include('name' => 'TKT-03', 'on' => true, 'boot_order' => %w[network])
  end

  it 'refuses two drives that say they are the same' do
    plugged(Requests::REPLACEMENT, '5', name: 'a-copy')
    expect([in_port('3'), in_port('5')].map { |one| one['refused']['title'] }).to all(eq('Two drives say that they are this one'))
    seal_up_to('image')
    seal('target', drive_id: replacement.id, label: '7Q4F', reason: 'x')
    expect([status, message]).to match([409, /Two drives say/])
  end

  it 'protects a drive until its protector or a lead lifts it' do
    call(:post, "/drives/#{replacement.id}/protection", note: '')
    expect([status, message]).to match([409, /a note is missing/])
    %w[2020-01-01 soon].each do |till|
      call(:post, "/drives/#{replacement.id}/protection", note: 'mine', until: till)
      expect(status).to eq(409)
    end
    sign_in('kaja')
    call(:post, "/drives/#{replacement.id}/protection", note: 'mine', until: (Date.current + 2).iso8601)
    expect(in_port('3')).to include('protection' => include('by' => 'K. Moe', 'note' => 'mine'),
                                    'refused' => include('title' => 'Protected by K. Moe'))
    Technician.find_by(sign_in: 'ina').update!(role: 'technician')
    sign_in
    call(:delete, "/drives/#{replacement.id}/protection")
    expect([status, message]).to match([409, /K. Moe has protected it/])
    Technician.find_by(sign_in: 'ina').update!(role: 'lead')
    expect(call(:delete, "/drives/#{replacement.id}/protection")['protection']).to be_nil
    replacement.update!(protected_by: Technician.first, protected_note: 'over', protected_until: Date.current - 1)
    expect(in_port('3')['refused']).to be_nil
  end

  it 'cleans a drive after a decision and a proof, and reads it back' do
    path = bench.path_of(Requests::REPLACEMENT)
    given = { how: 'discard', label: '7Q4F' }
    call(:post, "/drives/#{replacement.id}/clean", **given)
    expect([status, message]).to match([409, /needs a decision: Not empty/])
    call(:post, "/drives/#{replacement.id}/clean", **given, label: '7Q1F', reason: 'old stock')
    expect([status, message]).to match([409, /the label you read is the drive in port 1/])
    expect(call(:post, "/drives/#{replacement.id}/clean", **given, reason: 'old stock')).to include('kind' => 'clean', 'state' => 'queued')
    call(:post, "/drives/#{replacement.id}/clean", **given, reason: 'old stock')
    expect([status, message]).to match([409, /going on/])
    work_off
    expect(in_port('3')).to include('parts' => [], 'task' => include('state' => 'done'), 'decisions' => [])
    expect([run('wipefs', path), File.stat(path).blocks]).to eq(['', 0])
    expect(call(:get, "/drives/#{replacement.id}")['tasks'].first).to include('kind' => 'clean', 'state' => 'done')
  end

  it 'takes the unplug check as a proof too' do
    given = { how: 'signatures', reason: 'old stock', unplugged: true }
    call(:post, "/drives/#{replacement.id}/clean", **given)
    expect([status, message]).to match([409, /unplug check has not passed/])
    expect(call(:post, "/drives/#{replacement.id}/unplug-check")['unplug']).to include('state' => 'waiting', 'port' => '3')
    call(:delete, '/bench/unplug-check')
    expect(call(:get, '/bench')['unplug']).to include('state' => 'void', 'reason' => 'it was given up')
    call(:post, "/drives/#{replacement.id}/unplug-check")
    bench.pull('3')
    bench.plug(Requests::REPLACEMENT, '3')
    expect(call(:get, '/bench')['unplug']).to include('state' => 'passed', 'good' => true)
    call(:post, "/drives/#{replacement.id}/clean", **given)
    expect(status).to eq(202)
  end

  it 'finds a false capacity' do
    call(:post, "/bench/stand-ins/#{Requests::REPLACEMENT}", faults: { true_capacity: 64 * (1024**3) })
    call(:post, "/drives/#{replacement.id}/capacity-test", label: '7Q4F')
    work_off
    expect(in_port('3')['task']).to include('state' => 'done', 'result' => include('state' => 'short', 'true_capacity' => 64 * (1024**3)))
  end

  it 'tests a whole drive only after a decision' do
    call(:post, "/drives/#{replacement.id}/capacity-test", label: '7Q4F', whole: true)
    expect([status, message]).to match([409, /needs a decision: Not empty/])
    call(:post, "/drives/#{replacement.id}/capacity-test", label: '7Q4F', whole: true, reason: 'old stock')
    work_off
    expect(in_port('3')['task']['result']).to include('state' => 'whole', 'places' => be > 1000)
  end

  it 'has drives that die, and drives that lose their line' do
    attached = -> { AttachedDrives.by_key(Requests::REPLACEMENT) }
    read = ->(drive) { drive.open.then { |disk| 3.times { |at| disk.read(at * 1_000_000, 1_000_000) } } }
    fail_by = ->(faults) { bench.change_drive(Requests::REPLACEMENT) { |about| about['faults'] = faults } }
    fail_by.call('disconnects_after' => 1_500_000)
    expect { read.call(attached.call) }.to raise_error(Evrel::Unreadable)
    expect(attached.call).to be_nil
    bench.plug(Requests::REPLACEMENT, '3')
    expect { read.call(attached.call) }.not_to raise_error
    fail_by.call('dies_after' => 1_500_000)
    2.times { expect { read.call(attached.call) }.to raise_error(Evrel::Unreadable) }
    expect(in_port('3')['problem']).to include('does not answer')
  end

  # Every path that writes to a drive, with every reason for refusing it.
  refusals = {
    'shelf' => ->(spec) { Shelf.first.update!(drive: spec.replacement) },
    'running' => ->(spec) { spec.bench.change_drive(Requests::REPLACEMENT) { |about| about['running'] = true } },
    'in-use' => ->(spec) { spec.bench.change_drive(Requests::REPLACEMENT) { |about| about['in_use'] = 'mounted at /srv' } },
    'locked' => ->(spec) { spec.replacement.update!(docket: Docket.find_by!(cause: 'slow')) },
    'protected' => ->(spec) { spec.replacement.update!(protected_by: Technician.last, protected_note: 'x') },
    'conflict' => ->(spec) { spec.plugged(Requests::REPLACEMENT, '5', name: 'a-copy') },
    'read-only' => ->(spec) { spec.bench.change_drive(Requests::REPLACEMENT) { |about| about['read_only'] = true } },
    'failing' => ->(spec) { spec.smart(StandIns::Smart.ata(hours: 1, temperature: 30, passed: false)) },
    'size' => lambda(&:shrink)
  }

  def smart(document) = File.write(File.join(bench.folder, 'drives', Requests::REPLACEMENT, 'smart.json'), JSON.generate(document))

  def shrink
    bench.change_drive(Requests::REPLACEMENT) { |about| about['capacity'] = 10**9 }
    File.truncate(bench.path_of(Requests::REPLACEMENT), 10**9)
  end

  # What the drive holds; the blocks of its file settle some time after it was made.
  def written = bench.path_of(Requests::REPLACEMENT).then { |path| [held(path), File.mtime(path)] }

  refusals.each do |id, make|
    it "refuses by the rule #{id} on every path, and writes nothing" do
      seal_up_to('image')
      id_of = replacement.id
      make.call(self)
      before = written
      call(:post, "/dockets/#{docket.id}/stations/target/seal", drive_id: id_of, label: '7Q4F', reason: 'x')
      expect(status).to eq(409)
      call(:post, "/dockets/#{docket.id}/unplug-check", drive_id: id_of)
      expect(status).to eq(409)
      unless id == 'size' # of no meaning where nothing is restored
        %w[clean capacity-test].each do |path|
          call(:post, "/drives/#{id_of}/#{path}", **({ how: 'overwrite' } if path == 'clean').to_h, label: '7Q4F', reason: 'x')
          expect([path, status]).to eq([path, 409])
        end
      end
      expect(written).to eq(before)
    end

    it "does not begin a sealed write, nor a queued one, once the rule #{id} says no" do
      seal_up_to('layout')
      call(:post, "/dockets/#{docket.id}/write")
      make.call(self)
      before = written
      work_off
      expect(Write.last).to have_attributes(state: 'failed', verified: false)
      call(:post, "/dockets/#{docket.id}/write")
      expect(status).to eq(409)
      expect(written).to eq(before)
    end
  end
end
