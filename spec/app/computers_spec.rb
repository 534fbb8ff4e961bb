# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'Computers' do
  before { sign_in('kaja') }

  def message = JSON.parse(last_response.body)['message']
  def add(**given) = call(:post, '/computers', **given)
  def names = call(:get, '/computers')['computers'].map { |one| one['name'] }

  it 'are registered by a name alone, and a docket is opened and sealed for one' do
    made = add(name: '  GATE-07 ')
    expect([status, made]).to match([201, include('name' => 'GATE-07', 'firmware' => nil, 'place' => nil)])
    opened = call(:post, '/dockets', computer_id: made['id'], cause: 'slow')
    station = call(:get, "/dockets/#{opened['id']}/stations/computer")
    expect(station['facts'].first).to include('state' => 'ask', 'title' => 'Not known how it starts')
    call(:post, "/dockets/#{opened['id']}/stations/computer/seal")
    expect([status, Docket.find(opened['id']).seal('computer').summary]).to match([200, /Not known how it starts/])
    Docket::STATIONS.each do |name|
      call(:get, "/dockets/#{opened['id']}/stations/#{name}")
      expect(status).to eq(200), name
    end
  end

  it 'are refused with a reason' do
    { { name: '' } => /Name can't be blank/, { name: 'TKT-03' } => /already been taken/,
      { name: 'A', system_identity: '4C1E77A0-TKT03' } => /that of another computer/ }
      .each do |given, why|
        add(**given)
        expect([status, message]).to match([be_between(400, 422), why])
      end
    expect(Computer.count).to eq(call(:get, '/computers')['total'])
  end

  it 'are changed with a trail that says who and what' do
    id = add(name: 'GATE-07', place: 'North ramp')['id']
    changed = call(:patch, "/computers/#{id}", place: 'South ramp', firmware: 'bios', hardware: '', boot_menu: 'F12, twice')
    expect(changed['trail'].first).to include('by' => 'K. Moe',
                                              'text' => 'GATE-07: place North ramp → South ramp, firmware not known → bios, ' \
                                                        'boot menu not known → F12, twice')
    call(:patch, "/computers/#{id}", place: 'South ramp')
    expect(call(:get, "/computers/#{id}")['trail'].size).to eq(2)
  end

  it 'are found by their new name, and so are their dockets and images' do
    call(:patch, "/computers/#{docket.computer_id}", name: 'KIOSK-88')
    expect(call(:get, '/dockets?q=kiosk-88')['total']).to eq(1)
    expect(call(:get, '/images?q=kiosk-88')['total']).to be_positive
    double = add(name: 'KIOSK-99')['id']
    call(:post, "/computers/#{docket.computer_id}/merge", into: double)
    expect(call(:get, '/dockets?q=kiosk-99')['total']).to eq(1)
    expect(call(:get, '/images?q=kiosk-99')['total']).to be_positive
  end

  it 'are found by any of their words, a page at a time, and those put aside only when asked for' do
    3.times { |number| add(name: "GATE-1#{number}", place: 'North ramp', maker: 'Lume', model: 'Panel') }
    expect(call(:get, '/computers?q=ramp%20lume')['total']).to eq(3)
    expect(call(:get, '/computers?q=ramp&from=1&count=1')['computers'].map { |one| one['name'] }).to eq(['GATE-11'])
    images = Computer.find_by!(name: 'TKT-03').images.there.count
    expect(call(:get, '/computers?q=TKT-03')['computers'].first).to include('images' => images, 'open' => 1)
    gone = Computer.find_by!(name: 'GATE-11')
    call(:post, "/computers/#{gone.id}/aside", aside: true)
    expect(names).not_to include('GATE-11')
    expect(call(:get, '/computers?q=GATE&aside=yes')['total']).to eq(3)
    call(:post, "/computers/#{gone.id}/aside", aside: false)
    expect(names).to include('GATE-11')
    call(:post, "/computers/#{docket.computer_id}/aside", aside: true)
    expect([status, message]).to eq([409, 'TKT-03 has an open docket'])
  end

  it 'are recognised while somebody types' do
    known = Computer.find_by!(name: 'TKT-03')
    known.update!(serial: 'BD5-00417')
    alike = ->(query) { call(:get, "/computers-alike?#{query}").map { |one| [one['name'], one['why']] } }
    expect(alike['name=TKT-O3']).to eq([['TKT-03', 'a name one letter away']])
    expect(alike['name=tkt-03']).to eq([['TKT-03', 'the same name']])
    expect(alike['name=Other&serial=BD5-00417']).to eq([['TKT-03', 'the same serial number']])
    expect(alike["name=TKT-03&identity=#{known.system_identity}"]).to eq([['TKT-03', 'the same system identity']])
    expect(alike["name=TKT-03&but=#{known.id}"]).to eq([])
    expect(alike['name=']).to eq([])
  end

  it 'are read off an image, which is theirs from then on, and off a drive' do
    other = Image.order(:id).first
    found = call(:get, "/images/#{other.id}/computer")
    expect(found['facts']).to include(include('field' => 'name', 'value' => 'TKT-03'))
    nameless = Image.order(:id).last
    nameless.update!(computer: nil, host: 'GATE-07', system_identity: nil)
    other.update!(computer: nil, host: 'else', system_identity: nil)
    made = add(name: 'GATE-07', image_id: other.id, firmware: 'uefi')
    expect(Image.where(computer_id: made['id'])).to contain_exactly(other, nameless)
    expect(made['trail'].first['text']).to eq('GATE-07 registered, 2 images of it')

    attached = AttachedDrives.list.find { |one| AttachedDrives.contents(one).hosts.include?('TKT-03') }
    record = AttachedDrives.remember.fetch(attached.key)
    facts = call(:get, "/drives/#{record.id}/computer")['facts']
    expect(facts).to include({ 'field' => 'name', 'value' => 'TKT-03', 'source' => 'the name of the system on the drive' },
                             { 'field' => 'firmware', 'value' => 'UEFI', 'source' => match(/the drive: partition \d is a start-up part/) })
  end

  it 'are read off what programs print, in one piece or none' do
    text = "System Information\n\tManufacturer: Brisk\n\tProduct Name: Desk 5\n\tUUID: 4c1e77a0-3b2d-4f10-9a55-0123456789ab\n"
    found = call(:post, '/computers-read', text:)
    expect(found['given']).to eq('maker' => 'Brisk', 'model' => 'Desk 5', 'system_identity' => '4C1E77A0-3B2D-4F10-9A55-0123456789AB')
    expect(add(name: 'GATE-07', **found['given'].symbolize_keys)['system_identity']).to start_with('4C1E77A0')
    call(:post, '/computers-read', text: 'nothing of use')
    expect([status, message]).to match([422, /nothing of it was understood/])
    header 'Content-Type', 'application/json'
    post '/api/computers-read', JSON.generate(text: 'x' * (10 * 1024 * 1024))
    expect(last_response.status).to eq(413)
  end

  it 'are said to be those of an image that says nothing, and of others of its disk' do
    Image.update_all(computer_id: nil, host: nil, system_identity: nil)
    one, same = Image.order(:id).first(2)
    [one, same].each { |image| image.update!(disk_guid: 'the same') }
    Image.where.not(id: [one.id, same.id]).update_all(disk_guid: 'another')
    made = add(name: 'GATE-07')
    expect(call(:post, "/images/#{one.id}/computer", computer_id: made['id'])['computer_id']).to eq(made['id'])
    expect(Image.where(computer_id: made['id'])).to contain_exactly(one, same)
    expect(call(:get, "/computers/#{made['id']}")['trail'].first['text']).to eq('2 images said to be of GATE-07')
  end

  it 'are made one of two, with all that belongs to either' do
    into = Computer.find_by!(name: 'TKT-03')
    double = Computer.create!(name: 'TKT-3', serial: 'BD5-00417', place: 'Somewhere')
    Image.order(:id).last.update!(computer: double)
    place = into.place
    images = Image.where(computer: [into, double]).count
    call(:post, "/computers/#{double.id}/merge", into: into.id)
    expect([Image.where(computer: into).count, Computer.exists?(double.id)]).to eq([images, false])
    expect(into.reload).to have_attributes(serial: 'BD5-00417', place:)
    call(:post, "/computers/#{into.id}/merge", into: into.id)
    expect(status).to eq(409)
  end

  it 'are proposed for images that are of nobody, with reasons, until somebody has answered' do
    computer = docket.computer
    Image.update_all(computer_id: computer.id)
    image.update!(computer: nil, host: nil, system_identity: nil, model: nil, disk_guid: 'A-DISK',
                  drive_serial: computer.drives.first.serial)
    Computer.create!(name: 'TKT-33')
    Image.where.not(id: image.id).first.update!(computer: nil, host: 'TKT-3', system_identity: nil, model: nil, drive_serial: nil,
                                                disk_guid: nil)
    told = call(:get, '/images-whose')
    expect(told['count']).to eq(2)
    expect(told['disks'].map { |disk| disk['computers'].to_h { |one| [one['name'], one['why']] } })
      .to contain_exactly({ 'TKT-03' => ["it was taken of its drive #{computer.drives.first.serial}", 'the same name: TKT-03'],
                            'TKT-33' => ['a name one letter away: TKT-03'] },
                          { 'TKT-33' => ['a name one letter away: TKT-3'], 'TKT-03' => ['a name one letter away: TKT-3'] })
    call(:post, "/images/#{image.id}/computer", computer_id: nil)
    expect(call(:get, '/images-whose')['count']).to eq(1)
    again = image.dup
    again.update!(path: 'again', uid: 'again')
    expect(call(:get, '/images-whose')['count']).to eq(1)
    call(:post, "/images/#{image.id}/computer", computer_id: computer.id)
    expect([again.reload.computer, image.reload.nobodys]).to eq([computer, false])
  end
end
