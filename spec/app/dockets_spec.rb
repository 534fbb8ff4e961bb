# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'A docket' do
  before { sign_in }

  it 'is opened, listed and found' do
    made = call(:post, '/dockets', computer_id: Computer.find_by!(name: 'CAM-01').id, cause: 'slow', note: 'Blurred')
    expect(status).to eq(201)
    expect(made).to include('computer' => 'CAM-01', 'current' => 'computer')
    expect(call(:get, '/dockets')['dockets'].map { |row| row['computer'] }).to include('CAM-01')
    expect(call(:get, '/find?q=cam').map { |row| row['kind'] }).to include('docket')
    expect(call(:get, '/find?q=before%20season').map { |row| row['kind'] }).to eq(['image'])
    expect(call(:get, '/find?q=')).to eq([])
    expect(call(:get, "/dockets/#{made['id']}/events").first).to include('kind' => 'opened', 'by' => 'I. Hauge')
  end

  it 'is sealed station by station, and not out of order' do
    seal('image', image_id: image.id)
    expect([status, JSON.parse(last_response.body)['message']]).to eq([409, 'Computer is not sealed yet'])
    seal_up_to('layout')
    rows = call(:get, "/dockets/#{docket.id}")['stations']
    expect(rows.map { |row| row['state'] }).to eq(%w[sealed sealed sealed sealed open later])
    expect(rows.first['seal']).to include('by' => 'IH')
  end

  it 'loses what was built on a seal that is broken' do
    seal_up_to('layout')
    call(:delete, "/dockets/#{docket.id}/stations/image/seal", reason: 'an older one is better')
    rows = call(:get, "/dockets/#{docket.id}")
    expect(rows['stations'].map { |row| row['state'] }).to eq(%w[sealed open later later later later])
    expect(rows['broken']).to include('because' => 'an older one is better')
    expect(drive(Requests::REPLACEMENT).docket).to be_nil
    expect(docket.seals.count).to eq(4)
  end

  it 'takes no date in the future and no nonsense for one' do
    [(Time.now + 86_400).iso8601, 'yesterday'].each do |text|
      seal('computer', trouble_since: text)
      expect(status).to eq(409)
    end
    seal('computer', trouble_since: '', cause: 'corrupt')
    expect([status, docket.trouble_since, docket.cause_name]).to eq([200, nil, 'System corrupt'])
  rescue ActiveRecord::RecordNotFound
    expect(Docket.find_by!(cause: 'corrupt').trouble_since).to be_nil
  end

  it 'takes an unchecked image only with a reason' do
    seal('computer')
    seal('image', image_id: image.id)
    expect(status).to eq(409)
    seal('image', image_id: image.id, reason: 'checked when it was taken')
    expect(status).to eq(200)
    expect(docket.seal('image').decision['reason']).to eq('checked when it was taken')
  end

  it 'takes an image of another computer only with a reason' do
    other = Docket.find_by!(cause: 'slow')
    image.update!(state: 'whole', checked_at: Time.now)
    call(:post, "/dockets/#{other.id}/stations/computer/seal")
    call(:post, "/dockets/#{other.id}/stations/image/seal", image_id: image.id)
    expect([status, JSON.parse(last_response.body)['message']]).to eq([409, 'the image is of another computer'])
    call(:post, "/dockets/#{other.id}/stations/image/seal", image_id: image.id, reason: 'equal computers')
    expect(status).to eq(200)
  end

  it 'lists an image with the facts for and against it' do
    seal('computer')
    images = station('image')['view']['images']
    expect(images.map { |one| one['why'] }).to eq(['Newest image, from before the trouble', 'Good, but older'])
    expect(images.first['facts'].to_h { |fact| [fact['id'], fact['state']] })
      .to include('system' => 'ok', 'whole' => 'ask', 'complete' => 'ok', 'moment' => 'ok', 'tried' => 'ask')
  end

  it 'is checked in the background, and a damaged image breaks its seal' do
    seal_up_to('layout')
    call(:post, "/images/#{image.id}/check")
    expect(status).to eq(202)
    work_off
    expect(image.reload.state).to eq('whole')

    path = File.join(image_path, 'disk.qcow2')
    byte = File.binread(path, 1, 400_000).ord
    File.binwrite(path, (byte ^ 0xFF).chr, 400_000)
    call(:post, "/images/#{image.id}/check")
    work_off
    expect(image.reload).to have_attributes(state: 'damaged', check_result: include('damaged' => be_positive))
    expect(docket.reload.sealed?('image')).to be(false)
    seal('image', image_id: image.id)
    expect([status, JSON.parse(last_response.body)['message']]).to eq([409, 'the image is damaged'])
  end

  it 'finds new images when a shelf is looked through, and names what is no good one' do
    shelf = Shelf.first
    FileUtils.cp_r(image_path, File.join(shelf.path, 'copy'))
    already = Image.count
    FileUtils.mkdir_p(File.join(shelf.path, 'bad'))
    %w[manifest.json disk.qcow2].each { |name| File.write(File.join(shelf.path, 'bad', name), 'x') }
    call(:post, "/shelves/#{shelf.id}/look")
    expect(status).to eq(202)
    work_off
    expect(Image.count).to eq(already + 2)
    expect(Image.find_by(path: 'bad')).to have_attributes(state: 'incomplete', problem: /lacks clusters.b3/)
  end

  it 'cannot be changed behind its back: events are only ever added' do
    event = Event.first
    expect { event.update!(text: 'x') }.to raise_error(ActiveRecord::ReadOnlyRecord)
    expect { DemoState.sql("UPDATE events SET text = 'x'") }.to raise_error(ActiveRecord::StatementInvalid, /only ever added/)
    expect { DemoState.sql('DELETE FROM events') }.to raise_error(ActiveRecord::StatementInvalid, /only ever added/)
  end

  it 'tells who else has it open, at which station, and what they have chosen' do
    here = ->(page, station, choice = nil) { call(:put, "/dockets/#{docket.id}/people", page:, station:, choice:) }
    expect(here.call('a' * 16, 'image', 'image-4')).to eq([])
    told = Pulse.new.tap(&:news)
    sign_in('kaja')
    expect(here.call('b' * 16, 'target')).to eq([{ 'technician' => 'I. Hauge', 'station' => 'image', 'choice' => 'image-4' }])
    expect(told.news).to include(['people', { docket_id: docket.id }])
    expect(told.news.map(&:first)).not_to include('people')
    Presence.update_all(seen_at: 1.minute.ago)
    expect(here.call('b' * 16, 'target')).to eq([])
  end
end
