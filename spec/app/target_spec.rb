# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'The target' do
  before { sign_in }

  def message = JSON.parse(last_response.body).values_at('message', 'hint').compact.join('; ')
  def try_label(serial, label) = seal('target', drive_id: drive(serial).id, label:)

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
    small = bench.make('serial' => 'TINY-0001-AB12', 'maker' => 'Velm', 'model' => 'NV1', 'capacity' => 120_034_123_776, 'bus' => 'SATA',
                       'rotating' => false, 'logical_sector' => 512, 'physical_sector' => 4096, 'read_only' => false, 'in_use' => false,
                       'health' => { 'state' => 'good', 'reason' => 'new' })
    bench.plug('TINY-0001-AB12', '5')
    seal_up_to('image')
    shown = station('target')['view']['drives'].find { |one| one['port'] == '5' }
    expect(shown['verdict']).to include('state' => 'refused', 'reason' => include('title' => '120.0 GB too small'))
    try_label('TINY-0001-AB12', 'AB12')
    expect(status).to eq(409)
    expect(File.stat(small).blocks).to eq(0)
  end

  it 'shows a table that lies as what it is' do
    path = AttachedDrives.by_serial(Requests::REPLACEMENT).path
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
          Drive.find(drive.id).lock_for(one)
        end
      end
    end.map(&:value)
    expect(taken.count(true)).to eq(1)
  end

  it 'keeps its seal while it is away, and loses it when it comes back changed' do
    seal_up_to('layout')
    bench.pull('3')
    expect(call(:get, "/dockets/#{docket.id}")['stations'][2]['state']).to eq('sealed')
    path = bench.make('serial' => Requests::REPLACEMENT,
                      **JSON.parse(File.read(Config.path('bench', 'drives', Requests::REPLACEMENT, 'drive.json'))).except('serial'))
    File.binwrite(path, 'other', 1024**2)
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
end
