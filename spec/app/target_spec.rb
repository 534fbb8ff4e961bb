# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'The target' do
  before { sign_in }

  def message = JSON.parse(last_response.body).values_at('message', 'hint').compact.join('; ')
  def try_label(serial, label, **more) = seal('target', drive_id: drive(serial).id, label:, reason: 'no longer needed', **more)

  it 'shows no serial whole until the seal, in no answer' do
    seal_up_to('image')
    serials = AttachedDrives.list.map(&:serial)
    [station('target'), station('computer'), station('layout'), call(:get, "/dockets/#{docket.id}"),
     call(:get, '/find?q=ssd')].each do |answer|
      expect(serials.select { |serial| answer.to_json.include?(serial) }).to be_empty
    end
    try_label(Requests::REPLACEMENT, '7q4f')
    expect(status).to eq(200)
    shown = station('target')['view']['drives'].map { |one| one['serial'] }
    expect(shown).to include(Requests::REPLACEMENT, 'TF48-2209-••••')
  end

  it 'is refused where it holds the image, with the reason, by every path' do
    seal_up_to('image')
    shelf = station('target')['view']['drives'].find { |one| one['shelves'].any? }
    expect(shelf['verdict']).to include('state' => 'refused', 'reason' => include('title' => 'Holds the image you are restoring'))
    try_label('OS1T-88C02M', 'C02M')
    expect([status, message]).to match([409, /port 2 is refused: Holds the image/])
    expect(docket.sealed?('target')).to be(false)
  end

  it 'says whose label was read, and gives nothing away about the right one' do
    seal_up_to('image')
    try_label(Requests::REPLACEMENT, '7Q1F')
    expect(message).to include('the drive in port 1')
    try_label(Requests::REPLACEMENT, 'C02M')
    expect(message).to include('the drive in port 2, which is refused')
    expect(docket.sealed?('target')).to be(false)
  end

  it 'locks for a minute after three wrong labels, even for the right one' do
    seal_up_to('image')
    3.times { try_label(Requests::REPLACEMENT, 'XXXX') }
    expect(message).to include('no attached drive')
    expect(message).not_to include('7Q4F')
    try_label(Requests::REPLACEMENT, '7Q4F')
    expect([status, message]).to match([409, /three wrong labels/])
    expect(station('target')['view']['locked_until']).to be_a(String)
  end

  it 'is too small by a number, before anything is erased' do
    small = plugged('TINY-0001-AB12', '5', 'capacity' => 1_500_000_256)
    plugged('HALF-0001-AB12', '6', 'capacity' => 120_034_123_776)
    seal_up_to('image')
    half = station('target')['view']['drives'].find { |one| one['port'] == '6' }
    expect(half['verdict']).to include('state' => 'clear',
                                       'facts' => include(include('id' => 'shrink',
                                                                  'title' => 'Smaller than the image’s disk')))
    shown = station('target')['view']['drives'].find { |one| one['port'] == '5' }
    expect(shown['verdict']).to include('state' => 'refused', 'reason' => include('title' => /\A\d+ MB too small\z/))
    try_label('TINY-0001-AB12', 'AB12')
    expect(status).to eq(409)
    expect(File.stat(small).blocks).to eq(0)
  end

  it 'shows a table that lies as what it is' do
    path = AttachedDrives.by_key(Requests::REPLACEMENT).local_path
    [512, File.size(path) - 512].each { |offset| File.binwrite(path, "\xFF" * 8, offset + 30) }
    seal_up_to('image')
    shown = station('target')['view']['drives'].find { |one| one['port'] == '3' }
    expect(shown['problem']).to include('both copies of the partition table are broken')
    expect(shown['verdict']['state']).to eq('ask')
  end

  it 'serves one docket at a time' do
    seal_up_to('target')
    other = Docket.where.not(id: docket.id).first
    call(:post, "/dockets/#{other.id}/stations/computer/seal")
    call(:post, "/dockets/#{other.id}/stations/image/seal", image_id: image.id, reason: 'equal computers')
    call(:post, "/dockets/#{other.id}/stations/target/seal", drive_id: drive(Requests::REPLACEMENT).id, label: '7Q4F')
    expect([status, message]).to match([409, /Locked by D-0001/])
  end

  it 'goes to one of two technicians who seal at the same moment' do
    drive = drive(Requests::REPLACEMENT)
    dockets = Docket.all.to_a
    taken = dockets.map do |one|
      Thread.new do
        ActiveRecord::Base.connection_pool.with_connection do
          DriveLock.take(Drive.find(drive.id), one)
        end
      end
    end.map(&:value)
    expect(taken.count(true)).to eq(1)
  end

  it 'keeps its seal while it is away, and loses it when it comes back changed' do
    seal_up_to('layout')
    bench.pull('3')
    expect(call(:get, "/dockets/#{docket.id}")['stations'][2]['state']).to eq('sealed')
    File.binwrite(bench.path_of(Requests::REPLACEMENT), 'other', 1024**2)
    bench.plug(Requests::REPLACEMENT, '5')
    answer = call(:get, "/dockets/#{docket.id}")
    expect(answer['stations'].map { |row| row['state'] }).to eq(%w[sealed sealed open later later later])
    expect(answer['broken']['because']).to include('port 5 is not as it was sealed', 'table or volumes have changed')
  end

  it 'stays sealed when it merely moves to another port' do
    seal_up_to('layout')
    bench.pull('3')
    bench.plug(Requests::REPLACEMENT, '6')
    expect(call(:get, "/dockets/#{docket.id}")['stations'][3]['state']).to eq('sealed')
    expect(station('write')['view']['target']).to include('port' => '6', 'attached' => true)
  end

  it 'needs a decision with a reason where it asks, and keeps it in the record' do
    seal_up_to('image')
    seal('target', drive_id: drive(Requests::REPLACEMENT).id, label: '7Q4F')
    expect([status, message]).to match([409, /port 3 needs a decision: Not empty; say why/])
    try_label(Requests::REPLACEMENT, '7Q4F')
    expect(docket.seal('target').decision).to include('decided' => ['contents'], 'reason' => 'no longer needed', 'proof' => 'label')
    expect(station('target')['facts']).to include(include('id' => 'decided', 'detail' => '“no longer needed”'))
  end

  it 'is compared with its look-alikes after the seal, and they are announced before' do
    seal_up_to('image')
    fact = station('target')['view']['drives'].find do |one|
      one['port'] == '3'
    end['verdict']['facts'].find { |one| one['id'] == 'look-alike' }
    expect(fact['detail']).to include('the serial of port 1 differs by 1 character')
    expect(station('target')['view']['alike']).to be_empty
    try_label(Requests::REPLACEMENT, '7Q4F')
    expect(station('target')['view']['alike']).to eq([{ 'port' => '1', 'serial' => 'TF48-2209-7Q1F', 'name' => 'Tarn Flux SSD',
                                                        'capacity' => 480_103_981_056, 'marks' => [12] }])
    expect(station('target')['view']['alike'].map { |one| one['port'] }).not_to include('3') # itself
  end

  it 'is locked on the device too, while it is sealed' do
    seal_up_to('target')
    attached = AttachedDrives.by_key(Requests::REPLACEMENT)
    expect(bench.lock_on(AttachedDrives.by_key(Requests::REPLACEMENT))).to eq('D-0001')
    expect { attached.open(writable: true, docket: 'D-0002') }.to raise_error(Evrel::Refused, /locked to D-0001/)
    expect { attached.open(writable: true) }.to raise_error(Evrel::Refused)
    call(:delete, "/dockets/#{docket.id}/stations/target/seal")
    expect(bench.lock_on(AttachedDrives.by_key(Requests::REPLACEMENT))).to be_nil
  end

  it 'counts what would be lost, and saves what is newer than the image' do
    seal_up_to('image')
    image.update!(taken_at: 400.days.ago)
    given = { drive_id: drive(Requests::REPLACEMENT).id }
    expect(call(:post, "/dockets/#{docket.id}/count", **given)).to include('kind' => 'count', 'state' => 'queued')
    work_off
    loss = station('target')['view']['drives'].find { |one| one['port'] == '3' }['loss']
    expect(loss['count']).to include('state' => 'done', 'result' => include('files' => 20, 'newer_files' => 20, 'hosts' => []))
    expect(call(:post, "/dockets/#{docket.id}/count", **given)['id']).to eq(loss['count']['id'])

    holm = Shelf.find_by!(name: 'Holm')
    call(:post, "/dockets/#{docket.id}/save", shelf_id: holm.id, **given)
    work_off
    saved = station('target')['view']['drives'].find { |one| one['port'] == '3' }['loss']['saved'].first
    expect(saved).to include('state' => 'done', 'result' => include('files' => 20, 'missed' => []))
    listed = run('tar', '--zstd', '-tf', File.join(holm.path, saved['result']['archive'])).lines.grep(/list-/)
    expect(listed.size).to eq(20)
    expect(Event.where(kind: 'task_save').last).to have_attributes(docket_id: docket.id, text: /Saving files of the drive in port 3: done/)
  end

  it 'has an image taken of it first, and then knows that there is one' do
    seal_up_to('image')
    call(:post, "/drives/#{drive(Requests::REPLACEMENT).id}/takings", docket_id: docket.id, shelf_id: Shelf.first.id, note: 'old stock')
    work_off
    loss = station('target')['view']['drives'].find { |one| one['port'] == '3' }['loss']
    expect(loss['image']).to include('shelf' => 'Holm', 'state' => 'whole')
  end

  it 'says what cannot be saved, and where not' do
    seal_up_to('image')
    shelf_drive = drive('OS1T-88C02M').id
    call(:post, "/dockets/#{docket.id}/save", drive_id: shelf_drive, shelf_id: Shelf.first.id)
    expect([status, message]).to match([409, /lies on this very drive/])
    given = { drive_id: drive(Requests::REPLACEMENT).id, shelf_id: Shelf.first.id }
    call(:post, "/dockets/#{docket.id}/save", **given)
    expect([status, message]).to match([409, /not been counted yet/])
    [{ '1' => '/' }, { 'x' => ['/'] }, { '1' => ['../etc'] }].each do |wanted|
      call(:post, "/dockets/#{docket.id}/save", wanted:, **given)
      expect(status).to eq(409)
    end
    call(:post, "/dockets/#{docket.id}/count", drive_id: 0)
    expect([status, message]).to match([409, /not attached/])
  end

  describe 'proved by unplugging it' do
    def start = call(:post, "/dockets/#{docket.id}/unplug-check", drive_id: drive(Requests::REPLACEMENT).id)
    def state = station('target')['view']['unplug']&.slice('state', 'reason')&.compact
    def seal_it = seal('target', drive_id: drive(Requests::REPLACEMENT).id, unplugged: true, reason: 'old stock')

    before { seal_up_to('image') }

    it 'passes where its port goes empty and it comes back, even elsewhere' do
      seal_it
      expect([status, message]).to match([409, /unplug check has not passed/])
      expect(start['unplug']).to include('state' => 'waiting', 'port' => '3')
      bench.pull('3')
      expect(state).to eq('state' => 'away')
      bench.plug(Requests::REPLACEMENT, '5')
      expect(state).to eq('state' => 'passed')
      seal_it
      expect(status).to eq(200)
      expect(docket.seal('target').decision).to include('proof' => 'unplug', 'port' => '5')
    end

    it 'is voided by another drive that moves, by swapping, by time and by giving up' do
      start
      bench.pull('1')
      expect(state).to eq('state' => 'void', 'reason' => 'another drive moved, in port 1')
      bench.plug('TF48-2209-7Q1F', '1')
      start
      bench.swap('1', '3')
      expect(state['state']).to eq('void')
      bench.swap('1', '3')
      start
      UnplugCheck.last.update!(ends_at: 1.second.ago)
      expect(state['reason']).to include('not back within 90 s')
      start
      call(:delete, "/dockets/#{docket.id}/unplug-check")
      expect(state['reason']).to eq('it was given up')
      seal_it
      expect(status).to eq(409)
    end

    it 'is the only proof for a drive without a serial' do
      plugged('', '6', name: 'nameless')
      seal_up_to('image')
      nameless = station('target')['view']['drives'].find { |one| one['port'] == '6' }
      expect(nameless).to include('provable' => false, 'serial' => '')
      expect(nameless['verdict']['facts'].map { |fact| fact['id'] }).to include('serial')
      seal('target', drive_id: nameless['id'], label: '')
      expect(status).to eq(409)
      call(:post, "/dockets/#{docket.id}/unplug-check", drive_id: nameless['id'])
      bench.pull('6')
      bench.plug('nameless', '6')
      seal('target', drive_id: nameless['id'], unplugged: true)
      expect(status).to eq(200)
    end
  end

  it 'asks the database no more often where many drives are attached than where few are' do
    questions = lambda do
      count = 0
      ActiveSupport::Notifications.subscribed(->(*) { count += 1 }, 'sql.active_record') { TargetVerdict.new(nil).all }
      count
    end
    AttachedDrives.remember
    few = questions.call
    6.times { |number| plugged("VN48-00#{number}", (30 + number).to_s) }
    AttachedDrives.remember
    expect(TargetVerdict.new(nil).all.size).to be > 6
    expect(questions.call).to eq(few)
  end
end
