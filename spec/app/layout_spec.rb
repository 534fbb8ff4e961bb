# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'The layout' do
  before do
    sign_in
    seal_up_to('target')
  end

  let(:path) { AttachedDrives.by_key(Requests::REPLACEMENT).local_path }

  def wish(**wish) = call(:post, "/dockets/#{docket.id}/layout/plan", wish:)
  def message = JSON.parse(last_response.body)['message']
  def parts = station('layout')['view']['after']['parts'].map { |part| [part['name'], part['change']] }
  def fact(answer, id) = answer['facts'].find { |one| one['id'] == id }

  def write
    call(:post, "/dockets/#{docket.id}/write")
    work_off
    docket.write
  end

  it 'proposes what is sensible, and keeps what is made of it until it is sealed' do
    view = station('layout')['view']
    expect(view).to include('way' => 'grow', 'valid' => true, 'proposal' => include('why' => /System takes it/))
    expect(parts).to eq([['Start-up', 'as is'], %w[System grows], %w[Recovery moves]])

    changed = wish(way: 'by_hand', parts: { '2' => { size: 100 * (10**9) } })
    expect(changed['view']).to include('way' => 'by_hand', 'valid' => true)
    expect(fact(changed, 'room')['title']).to match(/stay unallocated/)
    expect(station('layout')['view']['wish']).to eq('way' => 'by_hand', 'parts' => { '2' => { 'size' => 100 * (10**9) } })

    expect(call(:post, "/dockets/#{docket.id}/stations/layout/seal", digest: 'another')['message']).to include('is another now')
    seal('layout', digest: changed['view']['digest'])
    expect(status).to eq(200)
    expect(docket.seal('layout').summary).to eq("By hand\nSystem 100.0 GB")
    wish(way: 'spread')
    expect([status, message]).to match([409, /sealed/])
    expect(write).to have_attributes(state: 'done', verified: true)
    expect(run('sgdisk', '-v', path)).to include('No problems found')
    expect(Dir[Config.path('scratch', '*')]).to be_empty
  end

  it 'answers a wish that makes no sense with the field, and one that cannot be with what would mend it' do
    before = station('layout')['view']
    [[{ way: 'sideways' }, /way/], [{ way: 'by_hand', parts: { '2' => { size: -1 } } }, /parts\.2\.size/],
     [{ way: 'grow', part: 77 }, /partition 77/]].each do |bad, words|
      call(:post, "/dockets/#{docket.id}/layout/plan", wish: bad)
      expect([status, message]).to match([409, words])
    end
    expect(station('layout')['view']).to eq(before)

    small = wish(way: 'by_hand', parts: { '2' => { size: 300 * (10**6) } })
    expect(small['view']).to include('valid' => false, 'problem' => include('title' => 'System cannot be 300 MB', 'part' => 2))
    seal('layout')
    expect([status, message]).to match([409, /System cannot be 300 MB/])

    huge = wish(way: 'as_in_image', free: '90%')['view']
    expect(huge).to include('valid' => false)
    remedy = huge['remedies'].find { |one| one['words'].start_with?('Shrink System') }
    expect(wish(**remedy['wish'].symbolize_keys)['view']['valid']).to be(true)
  end

  it 'leaves as a plan and as a script, comes back in, and is kept under a name' do
    wish(way: 'by_hand', parts: { '2' => { size: 100 * (10**9) } })
    plan = call(:get, "/dockets/#{docket.id}/layout/plan.json")
    expect(plan).to include('wish' => include('way' => 'by_hand'), 'digest' => /\h{64}/)
    header 'Host', '127.0.0.1'
    get "/api/dockets/#{docket.id}/layout/plan.sfdisk"
    script = last_response.body
    expect(script).to start_with('label: gpt')

    call(:post, '/layout-presets', name: 'Ticket desks', wish: plan['wish'])
    expect(status).to eq(201)
    call(:delete, "/dockets/#{docket.id}/layout/plan")
    expect(station('layout')['view']).to include('way' => 'grow', 'presets' => [include('name' => 'Ticket desks', 'wish' => plan['wish'])])

    [JSON.generate(plan), script].each do |text|
      back = call(:post, "/dockets/#{docket.id}/layout/read", text:)
      expect(back['view']['after']['parts'].map { |part| part.slice('start_bytes', 'size_bytes') })
        .to eq(plan['parts'].map { |part| part.slice('start_bytes', 'size_bytes') })
    end
    call(:post, "/dockets/#{docket.id}/layout/read", text: '{"way": ')
    expect([status, message]).to match([409, /is no JSON/])
    call(:delete, "/layout-presets/#{LayoutPreset.first.id}")
    expect(LayoutPreset.count).to eq(0)
  end

  it 'is tried on a throw-away file, judged by outside tools, and the target stays as it was' do
    before = held(path)
    call(:post, "/dockets/#{docket.id}/layout/try")
    expect(status).to eq(202)
    work_off
    tried = station('layout')['view']['try']
    expect(tried).to include('state' => 'done', 'startable' => true, 'error' => nil)
    expect(tried['facts'].map { |one| [one['title'], one['state']] })
      .to include(['sfdisk --verify: fine', 'ok'], ['sgdisk -v: fine', 'ok'], ['e2fsck -fn on 2: fine', 'ok'],
                  ['fsck.vfat -n on 1: fine', 'ok'])
    expect(tried['facts'].to_s).not_to include(Config.var)
    expect(held(path)).to eq(before)

    if Effort.all?
      call(:post, "/layout-tries/#{tried['id']}/trial")
      work_off
      expect(station('layout')['view']['try']['trial']).to include('outcome' => 'reached')
    end

    call(:delete, "/dockets/#{docket.id}/stations/target/seal")
    expect(Dir[Config.path('tries', '*')]).to be_empty
    call(:post, "/layout-tries/#{tried['id']}/trial")
    expect([status, message]).to match([409, /no disk of this dry run/])
  end

  it 'restores one part over another partition, even where the write was cut off and the old table is gone' do
    run('sgdisk', '-e', '-d', '1', '-n', '1:2048:+600M', '-n', '2:700M:+900M', path)
    File.binwrite(path, Random.new(1).bytes(100_000), 800 * (1024**2))
    call(:delete, "/dockets/#{docket.id}/stations/target/seal")
    AttachedDrives::CACHE.clear
    seal_up_to('target')
    neighbour = held(path, from: 700 * Disks::MIB, below: 1600 * Disks::MIB)

    shown = wish(way: 'part', part: 1, over: 1)
    expect(shown['view']['after']['parts'].map { |part| part['change'] }).to eq(%w[grows stays])
    expect(fact(shown, 'neighbours')['title']).to eq('1 partition stays as it is')
    seal('layout')
    call(:post, "/dockets/#{docket.id}/write")
    write = docket.write
    write.update!(stop_asked: true)
    work_off
    expect(write.reload.state).to eq('stopped')
    expect(self.write.reload).to have_attributes(state: 'done', verified: true)
    expect(held(path, from: 700 * Disks::MIB, below: 1600 * Disks::MIB)).to eq(neighbour)
    expect(run('sgdisk', '-v', path)).to include('No problems found')
  end
end
