# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'The proof that it starts' do
  before do
    sign_in
    seal_as_in_image
    call(:post, "/dockets/#{docket.id}/write")
    work_off
  end

  let(:path) { AttachedDrives.by_key(Requests::REPLACEMENT).local_path }
  let(:at) { "/dockets/#{docket.id}" }

  def shown = station('start')['view']
  def step(id) = shown['check']['steps'].find { |one| one['id'] == id }
  def said = JSON.parse(last_response.body)['message']

  # What is in it, holes or not.
  def startup_part = OpenSSL::Digest.new('SHA256').hexdigest(File.binread(path, 512 * Disks::MIB, Disks::MIB))

  # The loader lies only in a folder of its own from now on.
  def spoil_loader
    esp = Evrel::Disk::File.open(path) { |disk| Evrel::Table.read(disk).partitions.first }
    run('mmd', '-i', "#{path}@@#{esp.start}", '::EFI/QUAY')
    run('mmove', '-i', "#{path}@@#{esp.start}", '::EFI/BOOT/BOOTX64.EFI', '::EFI/QUAY/loader.efi')
    call(:post, "#{at}/chain")
  end

  it 'says what would go wrong, mends it, takes that back, and keeps what was done' do
    spoil_loader
    expect(step('loader')).to include('state' => 'no', 'mend' => 'fallback', 'remedy' => /QUAY/)
    before = startup_part
    draft = call(:post, "#{at}/mends/draft", step: 'loader')
    expect(draft).to include('title' => /fallback place/, 'places' => be_any)
    expect(startup_part).to eq(before)

    call(:post, "#{at}/mends", step: 'loader')
    expect(status).to eq(201)
    expect(step('loader')['state']).to eq('ok')
    mend = shown['mends'].first
    expect(mend).to include('by' => 'I. Hauge', 'undone_at' => nil, 'on_disk' => true)
    call(:post, "#{at}/mends/#{mend['id']}/undo")
    expect(startup_part).to eq(before)
    expect(step('loader')['state']).to eq('no')
    call(:post, "#{at}/mends/#{mend['id']}/undo")
    expect([status, said]).to match([409, /taken back already/])
    expect(docket.events.pluck(:kind)).to include('mended', 'mend_undone')
  end

  it 'mends only what the chain says, on the disk that was written, while the docket is open' do
    call(:post, "#{at}/mends", step: 'kernel')
    expect([status, said]).to match([409, /no step “kernel” that can be mended/])
    spoil_loader
    bench.pull('3')
    call(:post, "#{at}/mends", step: 'loader')
    expect([status, said]).to match([409, /not attached/])
    bench.plug('TF48-2209-7Q1F', '3') if bench.pull('1')
    call(:post, "#{at}/mends", step: 'loader')
    expect(status).to eq(409)
    expect(Mend.count).to eq(0)
  end

  it 'catches the twin that was left in, and lets it be taken out or put behind' do
    expect(step('twin')).to include('state' => 'ask')
    expect(step('order')).to include('state' => 'no', 'title' => /old drive/, 'mend' => 'boot-order')
    call(:post, "#{at}/mends", step: 'order')
    expect(bench.computers.first['boot_order'].first).to eq('port 3')
    expect(step('order')['state']).to eq('ok')
    call(:post, "#{at}/mends/#{shown['mends'].first['id']}/undo")
    expect(bench.computers.first['boot_order']).to eq(['USB', 'port 4', 'network'])
    expect(shown['at_hand']['media']).to include({ 'port' => '4', 'word' => 'the old drive' })
    bench.pull('4')
    call(:post, "#{at}/chain")
    expect(shown['check']['steps'].map { |one| one['id'] }).not_to include('twin')
  end

  it 'shows what a rescue medium that was left in does' do
    run('cp', '--sparse=always', initrd_disk, plugged('RESCUE-01', '7', 'bus' => 'USB', 'removable' => true, 'capacity' => InitrdDisks::SIZE))
    call(:post, "#{at}/chain")
    expect(step('order')).to include('state' => 'no', 'title' => /rescue medium/)
    real_start!
    call(:post, "#{at}/turn-on")
    work_off
    expect(shown['trial']).to include('outcome' => 'rescue', 'message' => /started from port 7, not from the restored disk/)
    expect(shown['at_hand']['media']).to include({ 'port' => '7', 'word' => 'the rescue medium' })
  end

  it 'keeps a checklist from what is known, with ticks, notes and photos' do
    items = shown['checklist'].to_h { |item| [item['id'], item] }
    expect(items.keys).to include('first', 'twin', 'clock', 'fresh')
    call(:put, "#{at}/checklist/twin", done: true, note: 'Lies in the drawer')
    expect(shown['checklist'].find do |item|
      item['id'] == 'twin'
    end).to include('done' => true, 'note' => 'Lies in the drawer', 'by' => 'I. Hauge')
    call(:put, "#{at}/checklist/dance", done: true)
    expect(status).to eq(404)

    run('gm', 'convert', '-size', '2400x1800', 'xc:red', '-comment', 'where it was taken', file('photo.png'))
    upload("#{at}/checklist/twin/photo", File.binread(file('photo.png')))
    expect(status).to eq(200)
    get "/api#{at}/checklist/twin/photo"
    expect(last_response.headers['content-type']).to eq('image/jpeg')
    expect(last_response.body).to start_with("\xFF\xD8".b)
    expect(last_response.body).not_to include('where it was taken')
    upload("#{at}/checklist/twin/photo", 'no picture')
    expect([status, said]).to match([409, /no picture/])
  end

  def upload(address, bytes)
    header 'Content-Type', 'image/png'
    header 'X-CSRF-Token', @token.to_s
    put "/api#{address}", bytes
  end

  it 'asks a started system what was agreed, and never shows the password' do
    call(:patch, "#{at}/proof", user: 'root', password: 'mooring-7', command: 'ls /home', expect: 'tickets')
    expect(shown['proof']).to eq('user' => 'root', 'command' => 'ls /home', 'expect' => 'tickets', 'password' => true)
    expect(Secrets.of_computer(docket.computer)).to eq('mooring-7')
    tables = ActiveRecord::Base.connection.tables.map { |table| ActiveRecord::Base.connection.select_all("SELECT * FROM #{table}").to_a.to_s }
    expect(tables.join).not_to include('mooring-7')
    call(:patch, "#{at}/proof", user: 'root', command: "ls\nrm", expect: 'x')
    expect([status, said]).to match([409, /one line/])
    call(:patch, "#{at}/hardware", hardware: 'a mouse')
    expect([status, said]).to match([422, /names no device/])
    call(:patch, "#{at}/hardware", hardware: "00:02.0 SATA controller [0106]: Made Up [1b57:0001]\n")
    expect(step('storage')).to include('state' => 'no')
  end

  it 'keeps it in the record where it does not start, and signs off where somebody saw it start' do
    seal('start', outcome: 'does not start', reason: '')
    expect([status, said]).to match([409, /say what was seen/])
    seal('start', outcome: 'does not start', reason: 'stops at the maker’s logo')
    expect(docket).to have_attributes(closed_at: nil)
    expect(docket.events.where(kind: 'does_not_start').last.text).to include('maker’s logo')
    seal('start', reason: 'its own screen, by I. Hauge')
    expect(docket.closed_at).not_to be_nil
    call(:put, "#{at}/checklist/twin", done: true)
    expect(status).to eq(409)
  end
end
