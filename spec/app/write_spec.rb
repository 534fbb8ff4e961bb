# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'The write' do
  before { sign_in }

  let(:path) { AttachedDrives.by_key(Requests::REPLACEMENT).local_path }

  def message = JSON.parse(last_response.body).values_at('message', 'hint').compact.join('; ')
  def write = call(:post, "/dockets/#{docket.id}/write")
  # The blocks of a file settle some time after it was made: what it holds counts.
  def contents(file) = [held(file), File.mtime(file)]

  it 'goes from the orders to a disk that was read back, and seals the station' do
    seal_up_to('layout')
    before = station('write')
    expect(before['view']['orders'].map { |order| order['kind'] }).to eq(%w[check prepare clear part part part part read_back table])
    expect(before['facts'].find { |fact| fact['id'] == 'time' }['title']).to eq('Not measured yet')
    expect(write['state']).to eq('queued')
    expect(status).to eq(202)
    work_off
    done = station('write')
    expect(done['view']['write']).to include('state' => 'done', 'verified' => true, 'mismatches' => [])
    expect(done['view']['write']['outcomes'].map { |one| one['id'] }).to eq(done['view']['orders'].map { |order| order['id'] })
    expect(run('sgdisk', '-v', path)).to include('No problems found')
    expect(docket.sealed?('write')).to be(true)
    expect(station('start')['view']['check']['steps'].map { |step| step['id'] }).to include('root', 'mounts')
    sealed = station('target')['view']['drives'].find { |one| one['port'] == '3' }
    expect(sealed['parts'].map { |part| part['volume']['label'] }).to eq(['old-stock']) # as it was sealed, not as it is now
    expect(station('layout')['view']['now']['parts'].size).to eq(1)
    expect(ExpectedTime.new(image, drive(Requests::REPLACEMENT), '3').past.size).to eq(1)
  end

  it 'does not begin before the first four stations are sealed' do
    { 'computer' => 'image', 'image' => 'target', 'target' => 'layout' }.each do |sealed, missing|
      seal_up_to(sealed)
      before = contents(path)
      write
      expect([status, message]).to eq([409, "#{missing.capitalize} is not sealed yet"])
      expect(contents(path)).to eq(before)
      call(:delete, "/dockets/#{docket.id}/stations/computer/seal")
    end
    expect(Write.count).to eq(0)
  end

  it 'does not begin where another drive sits in the port' do
    seal_as_in_image
    bench.swap('1', '3')
    bench.pull('1')
    look_alike = AttachedDrives.by_key('TF48-2209-7Q1F').local_path
    before = contents(look_alike)
    write
    expect([status, message]).to match([409, /the sealed drive is not attached/])
    expect(contents(look_alike)).to eq(before)
  end

  it 'stops at its own last look when the drive changes after it was queued, and breaks the seal' do
    seal_as_in_image
    write
    File.binwrite(path, 'other', 1024**2)
    before = contents(path)
    work_off
    expect(contents(path)).to eq(before)
    expect(Write.last).to have_attributes(state: 'failed', error: /not as it was sealed/)
    expect(docket.reload.sealed?('target')).to be(false)
    expect(docket.sealed?('image')).to be(true)
  end

  it 'does not begin where a rule refuses the drive by now' do
    seal_as_in_image
    about = Config.path('bench', 'drives', Requests::REPLACEMENT, 'drive.json')
    File.write(about, File.read(about).sub('"read_only": false', '"read_only": true'))
    write
    expect([status, message]).to match([409, /refused: Read-only/])
  end

  it 'does not write an image that was put in the place of the sealed one' do
    seal_as_in_image
    manifest = File.join(image_path, 'manifest.json')
    File.write(manifest, File.read(manifest).sub(image.uid, SecureRandom.uuid))
    before = contents(path)
    write
    work_off
    expect(Write.last).to have_attributes(state: 'failed', error: /not the one that was sealed/)
    expect(contents(path)).to eq(before)
  end

  it 'stops before a damaged cluster, names it, and writes no table' do
    seal_as_in_image
    qcow2 = File.join(image_path, 'disk.qcow2')
    File.binwrite(qcow2, (File.binread(qcow2, 1, 9_000_000).ord ^ 0xFF).chr, 9_000_000)
    write
    work_off
    expect(Write.last).to have_attributes(state: 'failed', verified: false, error: /cluster \d+ of the image/)
    expect(Evrel::Disk::File.open(path) { |disk| Evrel::Table.read(disk) }).to be_nil
    expect(docket.sealed?('write')).to be(false)
  end

  it 'stops when asked to and goes on from there' do
    seal_as_in_image
    write
    Write.last.update!(stop_asked: true)
    work_off
    expect(Write.last).to have_attributes(state: 'stopped', error: /nothing was written/)
    expect(write['state']).to eq('queued')
    work_off
    expect(Write.last).to have_attributes(state: 'done', verified: true)
    expect(Write.count).to eq(1)
  end

  it 'keeps its stations closed while it is queued, and is not begun twice' do
    seal_as_in_image
    write
    write
    expect([status, message]).to match([409, /\Aa write is running/])
    call(:delete, "/dockets/#{docket.id}/stations/layout/seal")
    expect([status, message]).to match([409, /a write is running/])
    seal('image', image_id: image.id)
    expect(status).to eq(409)
  end

  it 'is proved by a trial start and signed off' do
    seal_as_in_image
    write
    work_off
    seal('start')
    expect([status, message]).to match([409, /no trial start/])
    real_start!
    call(:post, "/dockets/#{docket.id}/trial")
    work_off
    shown = station('start')['view']
    expect(shown['trial']).to include('outcome' => 'reached', 'picture' => %r{/api/trials/\d+/picture})
    get shown['trial']['picture']
    expect(last_response.body.b[0, 4]).to eq("\x89PNG".b)
    seal('start')
    expect(status).to eq(200)
    expect(docket.reload.closed_at).not_to be_nil
    expect(drive(Requests::REPLACEMENT).docket).to be_nil
    expect(docket.events.pluck(:kind)).to include('sealed', 'write_queued', 'write_done', 'trial_done', 'signed_off')
  end

  it 'tries an image before anything is erased' do
    real_start!
    seal('computer')
    call(:post, "/dockets/#{docket.id}/trial", image_id: image.id)
    expect(status).to eq(202)
    work_off
    expect(station('image')['view']['images'].first['facts'].find { |fact| fact['id'] == 'tried' }['state']).to eq('ok')
  end
end
