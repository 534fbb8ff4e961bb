# frozen_string_literal: true

require_relative 'app_helper'

# Computers as a table: out, and in again.
RSpec.describe 'Computers as a table' do
  before { sign_in('kaja') }

  def message = JSON.parse(last_response.body)['message']
  def import(text, **more) = call(:post, '/computers-import', text:, **more)

  def out
    get '/api/computers.csv'
    last_response.body
  end

  it 'say of each row what would become of it, and do that when they are told to' do
    before = Computer.find_by!(name: 'TKT-03')
    table = "\uFEFFName;Place;Firmware;Own: Asset tag;colour\nGATE-07;\"North; ramp\";BIOS;A-17;red\ntkt-03;South pier;;;\n" \
            "GATE-07;;;;\nGATE-08;;coreboot;;\n;x;;;\nCAM-02;;;#{'x' * 401};\n"
    told = import(table)
    expect(told['counts']).to eq('new' => 1, 'changed' => 1, 'same' => 0, 'refused' => 4)
    expect(told['unknown']).to eq(['colour'])
    expect(told['rows'].to_h { |row| [row['line'], row['why'] || row['changes']] })
      .to match(2 => nil, 3 => "place #{before.place} → South pier", 4 => 'line 2 has the same name',
                5 => 'Firmware is uefi or bios', 6 => "Name can't be blank", 7 => /"Asset tag": a field of one's own has a name/)
    expect(Computer.where(name: 'GATE-07')).to be_empty

    import(table, apply: true)
    expect(Computer.find_by!(name: 'GATE-07')).to have_attributes(place: 'North; ramp', firmware: 'bios', wish_days: 30,
                                                                  free: { 'Asset tag' => 'A-17' })
    expect([before.reload.place, before.model]).to eq(['South pier', before.model])
    expect(call(:get, "/computers/#{before.id}")['trail'].first).to include('by' => 'K. Moe', 'text' => /from a table: .*South pier/)
    expect(call(:get, '/dockets?q=south+pier')['total']).to be_positive
    expect(import(table)['counts']).to eq('new' => 0, 'changed' => 0, 'same' => 2, 'refused' => 4)
  end

  it 'come in as they went out, and change nothing' do
    Computer.first.update!(precious: "The till, and\n\"the\" bookings; all of them", free: { 'Asset tag' => 'Ä-17' })
    told = import(out)
    expect(told['counts']).to eq('new' => 0, 'changed' => 0, 'same' => Computer.in_use.count, 'refused' => 0)
    Computer.first.update!(precious: nil)
    expect(import(out, apply: true)['counts']['refused']).to eq(0)
  end

  it 'take in 5,000, with the images that say that they are of one' do
    image.update!(computer: nil, host: 'DESK-4999', system_identity: nil)
    rows = Array.new(5000) { |number| "DESK-#{number},Office #{number % 40}" }
    expect(import("name,place\n#{rows.join("\n")}", apply: true)['counts']['new']).to eq(5000)
    expect(image.reload.computer.name).to eq('DESK-4999')
    expect(call(:get, '/computers?q=desk-4999')['total']).to eq(1)
    expect(Event.where(kind: 'computer_added').count).to be >= 5000
    expect(call(:get, '/readiness?count=40')['total']).to eq(Computer.in_use.count)
  end

  it 'are refused where they are no table of computers, and nothing is taken over' do
    before = Computer.count
    { "place\nNorth\n" => /no column called name: there is place/, "name\n\"A\nB\n" => /line 2: a quote is not closed/ }.each do |text, why|
      import(text, apply: true)
      expect([status, message]).to match([422, why])
    end
    header 'X-CSRF-Token', @token
    post '/api/computers-import', JSON.generate(text: 'n' * (3 * (1024**2)))
    expect([status, message]).to match([413, /at most 2560 KiB/])
    expect(Computer.count).to eq(before)
  end

  it 'refuse an identity that two would have' do
    of = Computer.where.not(system_identity: nil).first
    fresh = '11112222-3333-4444-5555-666677778888'
    told = import("name,system_identity\nA-1,#{of.system_identity.downcase}\nA-2,#{fresh}\nA-3,#{fresh}\n")
    expect(told['rows'].select { |row| row['what'] == 'refused' }.map { |row| row['why'] })
      .to eq(["its system identity is that of #{of.name}", 'its system identity is that of A-2'])
  end

  it 'have photos, which are pictures' do
    id = Computer.first.id
    send_photo = lambda do |bytes|
      header 'Content-Type', 'image/jpeg'
      header 'X-CSRF-Token', @token
      post "/api/computers/#{id}/photos?of=label", bytes
      JSON.parse(last_response.body)
    end
    picture = run('gm', 'convert', '-size', '40x30', 'xc:gray', 'png:-').b
    made = send_photo.call(picture)
    expect([status, made['photos']]).to match([201, [include('of' => 'label', 'by' => 'K. Moe', 'here' => true)]])
    get made['photos'].first['path']
    expect([last_response.content_type, last_response.body[0, 3].b]).to eq(['image/jpeg', "\xFF\xD8\xFF".b])
    ['no picture', picture[0, 40], ''].each do |bytes|
      send_photo.call(bytes)
      expect([status, message]).to match([409, /no picture/])
    end
    allow(Config).to receive(:most).with('pictures').and_return(1_000_000)
    send_photo.call(picture)
    expect([status, message]).to match([409, /pictures may take 1 MB/])
    expect(ComputerPhoto.count).to eq(1)
    path = ComputerPhoto.first.path
    call(:delete, "/computers/#{id}/photos/#{ComputerPhoto.first.id}")
    expect([ComputerPhoto.count, File.exist?(path)]).to eq([0, false])
  end
end
