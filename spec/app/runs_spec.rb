# frozen_string_literal: true

require 'csv'
require_relative 'app_helper'

RSpec.describe 'One image onto many drives' do
  before { sign_in }

  let(:size) { image.document.size }
  let!(:kiosks) { Array.new(4) { |number| Computer.create!(name: "KSK-0#{number + 2}", place: 'Quay', firmware: 'uefi') } }

  def message = JSON.parse(last_response.body)['message']

  def cards(count, capacity: size, **about)
    serials = Array.new(count) { |number| "LC08-000#{number}-7A#{number}C" }
    serials.each_with_index { |serial, number| plugged(serial, (21 + number).to_s, 'capacity' => capacity, **about) }
    call(:get, '/bench')
    serials
  end

  def begin_run(computers = kiosks, **more)
    call(:post, '/runs', image_id: image.id, computer_ids: computers.map(&:id), reason: 'all stand at a quay', **more)
  end

  def give(run, label, **more) = call(:post, "/runs/#{run['id']}/drives", label:, **more)
  def places(run) = call(:get, "/runs/#{run['id']}")['places']
  def blank(run) = call(:get, "/runs/#{run['id']}")['drives'].select { |drive| drive['blank'] }.map { |drive| drive['id'] }
  def give_blank(run, ids = blank(run)) = call(:post, "/runs/#{run['id']}/drives", blank: ids)
  def states(run) = places(run).map { |place| place['state'] }

  it 'makes a docket for each, with computer and image sealed for one reason' do
    sheet = call(:get, "/images/#{image.id}/run")
    expect(sheet['computers'].map { |one| one['name'] }).to include('KSK-02', 'TKT-03')
    begin_run([])
    expect([status, message]).to match([409, /for which computers/])
    call(:post, '/runs', image_id: image.id, computer_ids: [kiosks.first.id], reason: ' ')
    expect([status, message]).to match([409, /why this image is right/])
    run = begin_run
    expect(status).to eq(201)
    expect(run).to include('number' => Run.first.number, 'count' => 4, 'written' => 0)
    expect(run['places'].map { |place| place.values_at('computer', 'state', 'port') }).to eq(kiosks.map { |one| [one.name, 'open', nil] })
    dockets = Run.first.dockets
    expect(dockets).to all(satisfy { |one| one.sealed?('image') && !one.sealed?('target') })
    expect(dockets.map { |one| one.seal('image').decision['reason'] }.uniq).to eq(['all stand at a quay'])
    expect(call(:get, "/images/#{image.id}/run")['computers'].map { |one| one['name'] }).not_to include('KSK-02')
  end

  it 'looks typed labels up, in any order, and gives each drive to the next computer' do
    serials = cards(3)
    run = begin_run
    give(run, serials[2][-4..])
    expect(status).to eq(200)
    give(run, serials[0][-4..].downcase)
    expect(places(run).first(2).map { |place| place.values_at('computer', 'port', 'label', 'state') })
      .to eq([%w[KSK-02 23 7A2C ready], %w[KSK-03 21 7A0C ready]])
    give(run, serials[0][-4..])
    expect([status, message]).to match([409, /port 21 is refused/])
    give(run, 'ZZZZ')
    expect([status, message]).to match([409, /no attached drive has a label/])
    # What lies on a drive needs a reason here too.
    give(run, Requests::REPLACEMENT[-4..])
    expect([status, message]).to match([409, /needs a decision/])
    give(run, Requests::REPLACEMENT[-4..], reason: 'old stock')
    expect(states(run)).to eq(%w[ready ready ready open])
    2.times { give(run, 'YYYY') }
    expect(call(:get, "/runs/#{run['id']}")['locked_until']).not_to be_nil
    give(run, serials[1][-4..])
    expect([status, message]).to match([409, /locked until/])
  end

  it 'takes all blank drives by port, and never one on which something lies' do
    cards(3)
    run = begin_run
    give_blank(run, [*blank(run), drive(Requests::REPLACEMENT).id])
    expect([status, message]).to match([409, /needs a decision/]) # nothing of it was done
    expect(states(run).uniq).to eq(['open'])
    give_blank(run)
    expect(places(run).map { |place| place['port'] }).to eq(['21', '22', '23', nil])
    give_blank(run, [])
    expect([status, message]).to match([409, /say which drives/])
    give_blank(run, [999_999])
    expect([status, message]).to match([409, /not attached/])
    expect(Run.first.dockets.first.seal('target').decision['proof']).to eq('blank')
    # Not for a docket by itself, and not where something lies on the drive.
    last = Run.first.dockets.last
    call(:post, "/dockets/#{last.id}/stations/target/seal", drive_id: drive(Requests::REPLACEMENT).id, blank: true, reason: 'x')
    expect([status, message]).to match([409, /is not blank/])
    # One that is no longer blank when it is to be written is not written.
    path = AttachedDrives.list.find { |one| one.port == '22' }.local_path
    File.open(path, 'r+b') { |disk| disk.pwrite("something\n" * 200, 4096) }
    call(:post, "/runs/#{run['id']}/start")
    expect(status).to eq(202)
    work_off
    expect(places(run).map { |place| place['state'] }).to eq(%w[done open done open])
    expect(places(run).second['broken']).to match(/not as it was sealed/)
    # Where nothing of that is at its edges, it is read once more.
    call(:post, "/runs/#{run['id']}/drives", label: '7A1C', reason: 'mine')
    seal = Run.first.dockets.second.seal('target')
    seal.update!(decision: seal.decision.merge('proof' => 'blank'))
    expect { Guard.new(Run.first.dockets.second).check }.to raise_error(Guard::Changed, /not blank any more/)
  end

  it 'is proved by unplugging, one drive after the other in any order' do
    serials = cards(3)
    run = begin_run
    expect { RunWatch.new(Run.first).begin(Technician.first, 'sideways', nil) }.to raise_error(Evrel::Refused, /or for the next/)
    expect(call(:post, "/runs/#{run['id']}/watch", way: 'unplug')['watch']).to include('way' => 'unplug', 'away' => 0)
    # One that only comes is none that a hand was on.
    plugged('LC08-0009-9999', '29', 'capacity' => size)
    RunWatch.follow_all
    expect(states(run).uniq).to eq(['open'])
    %w[23 21].each { |port| bench.pull(port) }
    RunWatch.follow_all
    expect(call(:get, "/runs/#{run['id']}")['watch']).to include('away' => 2)
    # Into another port, and not in their order.
    bench.plug(serials[0], '24')
    RunWatch.follow_all
    bench.plug(serials[2], '23')
    2.times { RunWatch.follow_all }
    expect(places(run).first(3).map { |place| place.values_at('computer', 'port', 'state') })
      .to eq([%w[KSK-02 24 ready], %w[KSK-03 23 ready], ['KSK-04', nil, 'open']])
    expect(Run.first.dockets.first.seal('target').decision['proof']).to eq('unplug')
    # What lies on a drive needs a reason: without one it is told, and the row goes on.
    bench.pull('3')
    bench.plug(Requests::REPLACEMENT, '3')
    RunWatch.follow_all
    expect(call(:get, "/runs/#{run['id']}")['watch']['said']).to match([include('port' => '3', 'message' => /needs a decision/)])
    bench.pull('22')
    bench.plug(serials[1], '22')
    RunWatch.follow_all
    expect(states(run)).to eq(%w[ready ready ready open])
    expect(call(:delete, "/runs/#{run['id']}/watch")['watch']).to be_nil
    bench.pull('29')
    bench.plug('LC08-0009-9999', '29')
    RunWatch.follow_all
    expect(states(run)).to eq(%w[ready ready ready open])
  end

  it 'goes on with each blank drive that is plugged in, until each computer has one' do
    run = begin_run(kiosks.first(2))
    call(:post, "/runs/#{run['id']}/watch", way: 'next')
    old = plugged('LC08-0100-FULL', '30', 'capacity' => size)
    run('mkfs.vfat', '-F', '32', old)
    bench.pull('30')
    bench.plug('LC08-0100-FULL', '30')
    RunWatch.follow_all
    expect(call(:get, "/runs/#{run['id']}")['watch']['said']).to match([include('port' => '30', 'message' => /needs a decision|not blank/)])
    plugged('LC08-0101-7B1C', '31', 'capacity' => size)
    RunWatch.follow_all
    expect(states(run)).to eq(%w[queued open])
    work_off
    expect(states(run)).to eq(%w[done open])
    # The same card again is none that comes.
    bench.pull('31')
    bench.plug('LC08-0101-7B1C', '31')
    RunWatch.follow_all
    expect(states(run)).to eq(%w[done open])
    plugged('LC08-0102-7B2C', '32', 'capacity' => size)
    RunWatch.follow_all
    work_off
    expect(states(run)).to eq(%w[done done])
    expect(call(:get, "/runs/#{run['id']}")['watch']).to be_nil
    call(:post, "/runs/#{run['id']}/watch", way: 'next')
    expect([status, message]).to match([409, /each of its computers has a drive/])
  end

  it 'writes all from one reading, each with identities of its own; one that fails leaves the row and goes on alone' do
    serials = cards(3)
    run = begin_run(kiosks.first(3), way: 'stays')
    give_blank(run)
    # It is taken out in the middle.
    bench.change_drive(serials[1]) { |about| about['faults'] = { 'disconnects_after' => 30_000_000 } }
    read = nil
    allow(Evrel::Restore::SharedSource).to(receive(:new).and_wrap_original { |made, *given, **how| read = made.call(*given, **how) })
    answer = call(:post, "/runs/#{run['id']}/start")
    expect([status, answer['left']]).to eq([202, []])
    work_off
    expect(states(run)).to eq(%w[done failed done])
    expect(read.read).to be_between(1, image.document.document.dig('disk', 'clusters') * 1.5)
    attached = AttachedDrives.list.select { |one| serials.values_at(0, 2).include?(one.serial) }
    tables = attached.map { |one| AttachedDrives.contents(one).disk_guid }
    expect([*tables, image.document.disk_guid].uniq.size).to eq(3)
    expect(Write.where(state: 'done').count).to eq(2)
    expect(places(run).values_at(0, 2).map { |place| place['start'] }).to all(eq('ok').or(eq('ask')))
    expect(Owner.count).to eq(0)

    bench.plug(serials[1], '22')
    call(:post, "/runs/#{run['id']}/start")
    work_off
    expect(states(run)).to eq(%w[done done done])
    expect(Write.order(:id).second.progress['earlier'].to_i).to be_positive.or be_zero
    lines = CSV.parse(get("/api/runs/#{run['id']}/report.csv").body, headers: true)
    expect(lines.map { |line| line.values_at('computer', 'serial', 'verified') })
      .to eq(kiosks.first(3).zip(serials).map { |one, serial| [one.name, serial, 'true'] })
    %w[report stickers].each { |name| expect(get("/api/runs/#{run['id']}/#{name}.pdf").body).to start_with('%PDF') }
  end

  it 'gives each system the name of its computer, shows it before, and keeps what stood there' do
    serials = cards(2)
    begin_run(kiosks.first(2), table: "name,address\nKSK-02,10.1.4.2\n")
    expect([status, message]).to match([409, /no line for KSK-03/])
    kiosks.last.update!(name: 'Kiosk 9')
    begin_run([kiosks.last])
    expect([status, message]).to match([409, /cannot be the name of a system/])
    run = begin_run(kiosks.first(2), way: 'stays', table: "name,address\nKSK-02,10.1.4.2\nksk-03,10.1.4.3\n")
    told = call(:get, "/runs/#{run['id']}/names")
    expect(told.map { |one| one['computer'] }).to eq(%w[KSK-02 KSK-03])
    expect(told.last['files'].find { |file| file['path'] == '/etc/hostname' }).to include('before' => "TKT-03\n", 'after' => "KSK-03\n")
    give_blank(run)
    call(:post, "/runs/#{run['id']}/start")
    work_off
    expect(states(run)).to eq(%w[done done])
    disks = serials.map { |serial| AttachedDrives.list.find { |one| one.serial == serial } }
    expect(disks.map { |one| AttachedDrives.contents(one).hosts }).to eq([['KSK-02'], ['KSK-03']])
    expect(Mend.where(kind: 'own').pluck(:before, :after)).to contain_exactly(%w[TKT-03 KSK-02], %w[TKT-03 KSK-03])
    expect(places(run).map { |place| place['name_error'] }).to eq([nil, nil])
    lines = CSV.parse(get("/api/runs/#{run['id']}/report.csv").body, headers: true)
    expect(lines.map { |line| line['name'] }).to eq(%w[KSK-02 KSK-03])
    call(:post, "/runs/#{run['id']}/names")
    expect([status, message]).to match([409, /each that is written has its name/])
  end

  it 'says which system did not get its name, and tries it again' do
    cards(1)
    run = begin_run(kiosks.first(1), way: 'stays', templates: ['/etc/nothing'])
    call(:get, "/runs/#{run['id']}/names")
    expect([status, message]).to match([404, /no part has the file/])
    give_blank(run)
    call(:post, "/runs/#{run['id']}/start")
    work_off
    expect(places(run).first).to include('state' => 'done', 'name_error' => /no part has the file/)
    Run.last.update!(templates: [])
    expect(call(:post, "/runs/#{run['id']}/names")['places'].first).to include('name_error' => nil)
    expect(Mend.where(kind: 'own').count).to eq(1)
  end

  it 'tries some of those that are written, by a seed that stays' do
    cards(3)
    run = begin_run(kiosks.first(3), way: 'stays')
    call(:post, "/runs/#{run['id']}/try", count: 1)
    expect([status, message]).to match([409, /nothing is written/])
    give_blank(run)
    call(:post, "/runs/#{run['id']}/start")
    work_off
    allow(TrialJob).to receive(:new).and_return(Struct.new(:id) { def perform = nil }.new(1))
    one = call(:post, "/runs/#{run['id']}/try", count: 1)['sample']
    two = call(:post, "/runs/#{run['id']}/try", count: 2)['sample']
    expect([one.size, two.size, one - two]).to eq([1, 2, []])
    expect(TrialStart.where(docket: Docket.where(id: two)).count).to eq(2)
    call(:post, "/runs/#{run['id']}/try", count: 4)
    expect([status, message]).to match([409, /between 1 and 3/])
  end
end
