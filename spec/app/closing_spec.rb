# frozen_string_literal: true

require_relative 'app_helper'
require 'json_schemer'

RSpec.describe 'A docket that closes' do
  before { sign_in }

  let(:at) { "/dockets/#{docket.id}" }

  def said = JSON.parse(last_response.body)['message']

  def signed_off
    seal_as_in_image
    call(:post, "#{at}/write")
    work_off
    seal('start', reason: 'its own screen, by I. Hauge')
  end

  it 'leaves a report that says all of it, as data, on paper and in a table' do
    signed_off
    report = call(:get, "#{at}/report")
    schema = JSONSchemer.schema(File.read(File.join(Config::ROOT, 'docs', 'report.schema.json')))
    expect(schema.validate(report).map { |error| error['error'] }).to eq([])
    expect(report['stations'].map { |one| one['name'] }).to eq(Docket::STATIONS)
    expect(report['cores'].transform_values { |core| core['parts'].size }).to eq('image' => 3, 'before' => 1, 'after' => 3)
    expect(report['events']).to include('whole' => true, 'head' => docket.events.order(:id).last.digest)

    get "/api#{at}/report.pdf"
    expect(last_response.headers['content-type']).to eq('application/pdf')
    File.binwrite(file('report.pdf'), last_response.body)
    text = run('pdftotext', '-layout', file('report.pdf'), '-')
    expect(text).to include('D-0001', 'TKT-03', 'Signed off by Ina Hauge', 'its own screen', 'TF48-2209-7Q4F', 'all matches',
                            'Still to do', 'the chain is whole')
    expect(run('pdfinfo', file('report.pdf'))[/Pages:\s+(\d+)/, 1].to_i).to be_between(1, 2)

    get '/api/records.csv'
    row = CSV.parse(last_response.body, headers: true).find { |one| one['docket'] == 'D-0001' }
    expect(row.to_h).to include('computer' => 'TKT-03', 'verified' => 'true', 'closed_by' => 'Ina Hauge')
  end

  it 'is shown without a drive’s being read, once it is signed off' do
    signed_off
    expect(station('start')['view']['checklist'].map { |item| item['id'] }).to include('first', 'fresh')
    AttachedDrives::CACHE.clear
    get "/api#{at}/stations/start"
    expect(JSON.parse(last_response.body)['view']).to include('signed_off' => true, 'at_hand' => nil)
    get "/api#{at}"
    expect(last_response.status).to eq(200)
    expect(AttachedDrives::CACHE).to be_empty
  end

  it 'stays as it was signed off, whatever happens to its image and drive' do
    signed_off
    before = call(:get, "#{at}/report")
    image.update!(state: 'damaged')
    bench.pull('3')
    expect(call(:get, "#{at}/report")).to eq(before)
  end

  it 'is opened again by a lead only' do
    signed_off
    sign_in('kaja')
    call(:delete, "#{at}/stations/start/seal", reason: 'another look')
    expect([status, said, docket.reload.closed_at]).to match([409, /signed off/, be_present])
    sign_in
    call(:delete, "#{at}/stations/start/seal", reason: 'another look')
    expect([status, docket.reload.closed_at]).to eq([200, nil])
  end

  it 'shows where somebody has changed what happened' do
    Event.add('test', 'what really happened', docket:)
    Event.add('test', 'and what came then', docket:)
    expect(call(:get, "#{at}/chain")).to include('whole' => true)
    victim = docket.events.order(:id).first
    expect { DemoState.sql("UPDATE events SET text = 'nothing' WHERE id = #{victim.id}") }.to raise_error(/only ever added/)
    around_the_trigger { DemoState.sql("UPDATE events SET text = 'nothing' WHERE id = #{victim.id}") }
    expect(call(:get, "#{at}/chain")).to include('whole' => false, 'broken_at' => victim.id)
  end

  it 'is seen through where somebody with the database works all digests out anew' do
    Event.add('test', 'before', docket:)
    victim = docket.events.order(:id).first
    around_the_trigger do
      before = nil
      docket.events.order(:id).each do |event|
        text = event.id == victim.id ? 'nothing' : event.text
        fields = [event.docket_id, event.kind, text, event.technician_id, event.data.as_json, event.created_at.utc.iso8601(6)]
        before = OpenSSL::Digest::SHA256.hexdigest("#{before}\n#{JSON.generate(fields)}")
        DemoState.sql("UPDATE events SET text = #{ActiveRecord::Base.connection.quote(text)}, digest = '#{before}' WHERE id = #{event.id}")
      end
    end
    expect(call(:get, "#{at}/chain")).to include('whole' => false, 'broken_at' => victim.id)
  end

  it 'leaves where it ends in a file, once a day' do
    FileUtils.rm_rf(Config.path(EventHeads::FOLDER))
    path = EventHeads.write(Date.new(2026, 5, 1))
    expect(CSV.read(path, headers: true).find { |line| line['docket'] == docket.number }.to_h)
      .to eq('docket' => docket.number, 'events' => docket.events.count.to_s, 'digest' => docket.events.order(:id).last.digest)
    expect(File.stat(path).mode & 0o077).to eq(0)
    Event.add('test', 'later', docket:)
    expect(EventHeads.write(Date.new(2026, 5, 1))).to be_nil
  end

  it 'is kept by nobody who has another key' do
    key = Config.path(EventKey::FILE)
    kept = File.read(key)
    File.write(key, JSON.generate(key: SecureRandom.hex(32), since: 0))
    Event.new(kind: 'events_keyed', text: 'x', data: { check: 'of another' }, created_at: Time.now).save!
    expect { Event.add('test', 'x', docket:) }.to raise_error(Evrel::Refused, /another key/)
    File.delete(key)
    expect { Event.add('test', 'x', docket:) }.to raise_error(Evrel::Refused, /another key/)
  ensure
    File.write(key, kept, perm: 0o600)
  end

  # As somebody with the password of the tables’ owner could.
  def around_the_trigger
    made = TableOwner.connection.select_one('SHOW CREATE TRIGGER events_no_update')['SQL Original Statement']
    DemoState.sql('DROP TRIGGER events_no_update')
    yield
  ensure
    DemoState.sql(made)
  end

  it 'chains events that are added at the same time' do
    threads = Array.new(4) { |index| Thread.new { 5.times { |one| Event.add('test', "#{index} #{one}", docket:) } } }
    threads.each(&:join)
    expect(EventChain.new(docket).check).to be_whole
  end

  it 'is handed over with a note, and copied for an equal computer' do
    kaja = Technician.find_by!(sign_in: 'kaja')
    call(:post, "#{at}/hand-over", technician_id: kaja.id, note: 'Layout is next, the drive lies beside it')
    expect(call(:get, '/dockets')['dockets'].find do |row|
      row['id'] == docket.id
    end).to include('waits_for' => 'K. Moe', 'waits_note' => /Layout is next/)
    call(:post, "#{at}/hand-over", technician_id: nil, note: '')
    expect(call(:get, at)['waits_for']).to be_nil
    expect(docket.events.where(kind: 'handed_over').count).to eq(2)

    other = Computer.find_by!(name: 'PIER-02')
    made = call(:post, "#{at}/copy", computer_id: other.id)
    expect(made).to include('computer' => 'PIER-02', 'copied_from' => 'D-0001', 'cause' => 'drive_failed')
    call(:post, "#{at}/copy", computer_id: docket.computer_id)
    expect([status, said]).to match([409, /same computer/])
  end

  it 'is found again among the records, and in the histories of its computer and drive' do
    signed_off
    records = call(:get, '/records?q=holm 7q4f')
    expect(records['rows'].map { |row| row['docket'] }).to eq(['D-0001'])
    expect(records['rows'].first['stations'].map { |one| one['name'] }).to eq(Docket::STATIONS)
    expect(call(:get, '/records?q=nobody')['total']).to eq(0)
    call(:get, '/records?since=yesterday')
    expect(status).to eq(409)
    expect(call(:get, "/computers/#{docket.computer_id}/history")['dockets'].map { |one| one['number'] }).to include('D-0001')
    history = call(:get, "/drives/#{drive(Requests::REPLACEMENT).id}/history")
    expect(history['writes'].first).to include('number' => 'D-0001', 'verified' => true)
  end
end
