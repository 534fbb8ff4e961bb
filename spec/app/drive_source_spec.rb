# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'A drive as the source' do
  before { sign_in }

  let!(:attached) { AttachedDrives.list.find { |one| AttachedDrives.contents(one).systems.any? } }
  let(:source) { Drive.find_by!(identity_key: attached.key) }

  def message = JSON.parse(last_response.body)['message']
  def row = station('image')['view']['drives'].find { |one| one['id'] == source.id }

  def seal_source(**more)
    seal('computer')
    seal('image', drive_id: source.id, reason: 'the newest there is', **more)
  end

  def seal_target(drive = self.drive(Requests::REPLACEMENT), **more)
    seal('target', drive_id: drive.id, label: drive.serial[-4..], reason: 'old stock, no longer needed', **more)
  end

  it 'stands under the images, with whose it is and what is to be known of it' do
    expect(row).to include('port' => attached.port, 'own' => true, 'hosts' => ['TKT-03'])
    expect(row['facts'].map { |one| one['id'] }).to include('live', 'complete')
    expect(row['parts'].map { |part| part['role'] }).to eq(%w[startup system recovery])
    bench.change_drive(attached.handle) { |about| about['in_use'] = 'mounted at /mnt' }
    expect(row).to include('needs_reason' => 'it is in use')
    seal('computer')
    seal('image', drive_id: source.id)
    expect([status, message]).to match([409, /in use/])
    seal('image', drive_id: Shelf.first.drive_id)
    expect([status, message]).to match([409, /no system is on that drive/])
  end

  it 'is written to another one, read back against what was read, and never written to' do
    before = File.mtime(attached.local_path)
    seal_source
    expect(status).to eq(200)
    expect(station('image')['view']).to include('sealed_drive_id' => source.id, 'sealed_id' => nil)
    refused = station('target')['view']['drives'].find { |one| one['id'] == source.id }
    expect(refused['verdict']).to include('state' => 'refused', 'reason' => include('title' => 'It is what you restore from'))
    seal_target(source)
    expect([status, message]).to match([409, /what you restore from/])
    seal_target
    call(:post, "/dockets/#{docket.id}/layout/plan", wish: { way: 'as_in_image' })
    seal('layout')
    expect(status).to eq(200)
    call(:post, "/dockets/#{docket.id}/write", orders: station('write')['view']['orders'])
    work_off
    write = docket.writes.sole
    expect(write).to have_attributes(state: 'done', verified: true, source: docket.source)
    expect(File.mtime(attached.local_path)).to eq(before)
    ours, theirs = [attached, AttachedDrives.of(drive(Requests::REPLACEMENT))].map(&:open)
    map = Evrel::Image::UsedMap.new(ours)
    table_end = 34 * 512
    differ = map.each_cluster.reject do |number, _|
      at = number << 16
      at.zero? || at + 65_536 > ours.size - table_end || ours.read(at, 65_536) == theirs.read(at, 65_536)
    end
    expect(differ).to eq([])
    report = call(:get, "/dockets/#{docket.id}/report")
    expect(report['image']).to include('shelf' => /the drive .* in port 4/)
  ensure
    [ours, theirs].compact.each(&:close)
  end

  it 'has its seal broken when what is on it changes, and is not read from then' do
    seal_source
    seal_target
    system = AttachedDrives.contents(attached).parts.find { |part| part['role'] == 'system' }
    # When it was last written, in the superblock of its file system.
    File.open(attached.local_path, 'r+b') { |disk| disk.pwrite([Time.now.to_i].pack('V'), system['start_bytes'] + 1024 + 48) }
    SealWatch.new(docket).check
    expect(docket.reload.sealed?('image')).to be(false)
    expect(Event.where(kind: 'seal_broken').pluck(:text)).to include(/not as it was when it was sealed as the source/)
  end

  it 'is refused as a target to everybody else, and as a source while it is the target of another docket' do
    seal_source
    other = Docket.create!(computer: Computer.where.not(id: docket.computer_id).first, cause: 'slow', opened_by: Technician.first)
    expect(TargetVerdict.new(nil).of(attached).reason.title).to eq("#{docket.number} restores from it")
    call(:delete, "/dockets/#{docket.id}/stations/image/seal", reason: 'another one')
    source.update!(docket: other)
    seal('image', drive_id: source.id, reason: 'x')
    expect([status, message]).to match([409, /#{other.number} has sealed it as its target/])
  end

  it 'asks for its own label too where the target looks like it' do
    twin = "#{attached.serial[..-2]}Z"
    plugged(twin, '7', 'maker' => attached.maker, 'model' => attached.model, 'capacity' => attached.capacity)
    station('target')
    seal_source
    view = station('target')['view']
    expect(view['source']).to include('port' => attached.port)
    expect(view['drives'].find { |one| one['port'] == '7' }).to include('like_source' => true)
    seal_target(drive(twin))
    expect([status, message]).to match([409, /looks like the drive in port 4 that you restore from/])
    seal_target(drive(twin), source_label: '0000')
    expect(status).to eq(409)
    seal_target(drive(twin), source_label: attached.serial[-4..])
    expect(status).to eq(200)
  end

  it 'is looked into, files are taken out of it, and it is laid beside an image' do
    about = call(:get, "/drives/#{source.id}/inside")
    expect(about).to include('computer' => 'TKT-03', 'port' => attached.port, 'twins' => be_any)
    part = about['parts'].find { |one| one['role'] == 'system' }['number']
    names = call(:get, "/drives/#{source.id}/parts/#{part}/files?path=/")['entries'].map { |entry| entry['name'] }
    expect(names).to include('etc', 'home')
    expect(call(:get, "/drives/#{source.id}/parts/#{part}/find?q=hostname").map { |entry| entry['path'] }).to include('/etc/hostname')
    expect(call(:get, "/drives/#{source.id}/parts/#{part}/preview?path=/etc/hostname")).to include('kind' => 'text', 'text' => /tkt-03/i)
    get "/api/drives/#{source.id}/parts/#{part}/take?kind=zip&path[]=/etc/hostname"
    expect([status, last_response.body[0, 2]]).to eq([200, 'PK'])
    looks = Event.where(kind: %w[file_shown files_taken]).order(:id).pluck(:text)
    expect(looks).to all(end_with("of the drive in port #{attached.port}, part #{part}")) & have_attributes(size: 2)
    beside = call(:get, "/drives/#{source.id}/compare/#{image.id}")
    expect(beside).to include('older' => include('id' => image.id), 'newer' => include('id' => source.id))
    expect(beside['parts'].find { |one| one['number'] == part }).to include('note' => nil, 'changed' => be_positive)
    call(:get, "/drives/#{source.id}/parts/9/files")
    expect([status, message]).to match([404, /no part 9/])
    bench.pull(attached.port)
    call(:get, "/drives/#{source.id}/inside")
    expect([status, message]).to match([409, /not attached/])
  end

  it 'is tried in the emulator as it is, without anything written to it' do
    # The blocks of a file settle some time after it was made: what it holds counts.
    before = [File.mtime(attached.local_path), held(attached.local_path)]
    expect(call(:post, "/drives/#{source.id}/trial")).to include('state' => 'queued')
    expect(call(:post, "/drives/#{source.id}/trial")).to include('id' => TrialStart.sole.id)
    work_off
    expect(TrialStart.sole).to have_attributes(outcome: 'reached', drive: source)
    expect(row['trial']).to include('outcome' => 'reached', 'picture' => be_a(String))
    expect(row['facts']).to include(include('title' => 'Seen to start', 'state' => 'ok'))
    expect([File.mtime(attached.local_path), held(attached.local_path)]).to eq(before)
    call(:post, "/drives/#{drive(Requests::REPLACEMENT).id}/trial")
    expect([status, message]).to match([409, /no system is on it/])
  end

  it 'is kept for two weeks after the sign-off, and may be cleaned then' do
    seal_source
    seal_target
    call(:post, "/dockets/#{docket.id}/layout/plan", wish: { way: 'as_in_image' })
    seal('layout')
    call(:post, "/dockets/#{docket.id}/write", orders: station('write')['view']['orders'])
    work_off
    seal('start', reason: 'its own screen')
    expect(status).to eq(200)
    told = -> { TargetVerdict.new(nil).of(attached).facts.find { |one| one.id == 'moved' } }
    shown = -> { station('start')['facts'].find { |one| one['id'] == 'old-drive' } }
    expect(told.call).to have_attributes(state: :ask, title: 'Kept for a while yet', detail: /#{docket.number}/)
    expect(shown.call).to include('state' => 'ask', 'detail' => /In port 4, with the same identity/)
    docket.reload.update!(closed_at: 15.days.ago)
    expect(told.call).to have_attributes(state: :ok, title: 'Moved, and seen to start')
    expect(shown.call).to include('state' => 'ok', 'title' => 'The old drive may be cleaned')
    call(:post, "/drives/#{source.id}/clean", how: 'signatures', reason: 'moved two weeks ago', label: '0000')
    expect(status).to eq(409)
    # With something else on it, it is any other drive.
    File.open(attached.local_path, 'r+b') { |disk| disk.pwrite("\0" * 1024, 512) }
    AttachedDrives.forget(attached)
    expect(told.call).to be_nil
  end

  it 'keeps an image of itself on the way, onto a shelf that was chosen' do
    seal_source
    seal_target
    call(:post, "/dockets/#{docket.id}/layout/plan", wish: { way: 'as_in_image' })
    seal('layout')
    shelf = Shelf.first
    choose = ->(**given) { call(:patch, "/dockets/#{docket.id}/write/options", **given) }
    expect(station('write')['view']['options']['shelves'].map { |one| one['name'] }).to include(shelf.name)
    choose.call(keep_on: 99_999)
    expect(status).to eq(404)
    expect(choose.call(keep_on: shelf.id)['options']).to include('keep_on' => shelf.id)
    call(:post, "/dockets/#{docket.id}/write", orders: station('write')['view']['orders'])
    expect(status).to eq(202)
    expect(station('write')['view']['along']).to include('shelf' => shelf.name, 'state' => 'queued')
    expect(Delayed::Job.where('handler LIKE ?', '%TakingJob%').count).to eq(0)
    read = nil
    allow(Evrel::Restore::SharedSource).to(receive(:new).and_wrap_original { |made, *given, **how| read = made.call(*given, **how) })
    work_off
    expect(docket.writes.sole).to have_attributes(state: 'done', verified: true)
    taking = Taking.sole
    expect(taking).to have_attributes(state: 'done', write: docket.writes.sole, docket:)
    expect(taking.image.reload).to have_attributes(state: 'whole', drive_serial: attached.serial)
    expect(read.read).to be <= taking.image.document.document.dig('disk', 'clusters') * 1.05
    expect(Owner.count).to eq(0)
    expect(station('write')['view']['along']).to include('id' => taking.id, 'state' => 'done')
  end
end
