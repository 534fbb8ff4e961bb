# frozen_string_literal: true

require_relative 'app_helper'
require 'zip_kit'

RSpec.describe 'Images' do
  before { sign_in }

  def message = JSON.parse(last_response.body)['message']
  def inside(path, **query) = call(:get, "/images/#{image.id}/parts/2/#{path}?#{Rack::Utils.build_query(query)}")
  def older = Image.order(:taken_at).first

  def check(one = image)
    call(:post, "/images/#{one.id}/check")
    work_off
  end

  it 'are filtered and searched by all that is known of them' do
    image.update!(state: 'whole', checked_at: Time.now)
    { 'state=whole' => 1, 'q=tkt-03' => 2, 'q=season' => 1, 'q=holm+printer' => 1, 'q=nothing' => 0, 'q=recovery' => 2,
      "q=#{image.taken_at.getlocal.strftime('%F')}" => 1, "shelf=#{Shelf.first.id}" => 2, 'shelf=99' => 0 }.each do |query, count|
      expect([query, call(:get, "/images?#{query}")['total']]).to eq([query, count])
    end
    expect(call(:get, '/images')['states']).to eq('whole' => 1, 'unchecked' => 1)
  end

  it 'are told with their damage by part and file, and what is still good' do
    noise = Random.new(0).bytes(Demo::OfficeFiles::MB).byteslice(300_000, 64)
    qcow2 = File.join(image_path, 'disk.qcow2')
    at = File.binread(qcow2).index(noise)
    File.binwrite(qcow2, (noise.getbyte(0) ^ 1).chr, at)
    check
    found = call(:get, "/images/#{image.id}")
    expect(found).to include('state' => 'damaged')
    expect(found['check']).to include('damaged' => 1, 'words' => '1 cluster differs, in System: 1 file', 'usable' => %w[Start-up Recovery],
                                      'hit' => [include('part' => 2, 'path' => '/home/receipts/scan-0000.bin')])
    expect(found['check']['places'].first).to include('part' => 2, 'offset' => be > 500_000_000, 'reason' => /does not match/)
    expect(call(:get, "/images/#{image.id}/parts/1/files?path=/")['entries'].map { |entry| entry['name'] }).to include('vmlinuz')
  end

  it 'have their check paused and gone on with, and it is due again by age' do
    stub_const('Evrel::Image::Check::BATCH', 1)
    allow(CheckJob).to receive(:every).and_return(0)
    image.update!(state: 'checking', pause_asked: false)
    job = CheckJob.new(image.id)
    allow(job).to receive(:tell).and_wrap_original do |original, *arguments|
      Image.where(id: image.id).update_all(pause_asked: true) if arguments[1] == 40
      original.call(*arguments)
    end
    job.perform
    expect(image.reload).to have_attributes(state: 'paused',
                                            check_result: include(
                                              'clusters' => be_between(40, 60), 'position' => be_positive
                                            ))

    stub_const('Evrel::Image::Check::BATCH', 64)
    allow(CheckJob).to receive(:every).and_call_original
    check
    expect(image.reload).to have_attributes(state: 'whole',
                                            check_result: include(
                                              'clusters' => image.document.stored_clusters, 'position' => nil
                                            ))
    image.update!(checked_at: 300.days.ago)
    expect(call(:get, "/images/#{image.id}")).to include('due' => true)
    call(:post, "/images/#{image.id}/check/pause")
    expect(status).to eq(409)
  end

  it 'are opened from a paused check again, from the request on' do
    call(:post, "/images/#{image.id}/check")
    expect(call(:post, "/images/#{image.id}/check/pause")).to include('state' => 'checking')
    expect(image.reload.pause_asked).to be(true)
  end

  it 'are looked into: folders, previews, names' do
    root = inside('files', path: '/')
    expect(root['entries'].map { |entry| entry['type'] }.chunk_while { |one, two| one == two }.map(&:first)).to eq(%w[directory])
    home = inside('files', path: '/home')
    expect(home['entries'].map { |entry| entry['name'] }).to eq(%w[receipts tickets timetable.txt])
    expect(inside('preview', path: '/home/timetable.txt')).to include('kind' => 'text', 'text' => /Timetable from/, 'cut' => false)
    expect(inside('preview',
                  path: '/home/receipts/scan-0000.bin')).to include('kind' => 'hex', 'cut' => true, 'text' => /\A00000000  \h\h /)
    expect(inside('find', q: 'TIMETABLE').map { |entry| entry['path'] }).to eq(['/home/timetable.txt'])
    expect(Event.where(kind: 'file_shown').order(:id).first).to have_attributes(
      technician: Technician.find_by!(sign_in: 'ina'), text: start_with('/home/timetable.txt looked at, of the image of')
    )
  end

  it 'answer for what cannot be looked into' do
    { 'files?path=/nowhere' => 404, 'files?path=/etc/hostname' => 404, 'preview?path=/home' => 404,
      'picture?path=/home/timetable.txt' => 404, 'take?kind=rar&path[]=/home' => 400, 'take?kind=zip' => 400,
      'take?kind=zip&path[]=/nowhere' => 404 }.each do |path, code|
      get "/api/images/#{image.id}/parts/2/#{path}"
      expect([status, JSON.parse(last_response.body)]).to match([code, include('error', 'message')]), path
    end
    call(:get, "/images/#{image.id}/parts/9/files")
    expect(status).to eq(404)
    bench.pull('2')
    call(:get, "/images/#{image.id}/parts/2/files")
    expect([status, message]).to match([422, /not attached/])
  end

  it 'show a picture as a picture, and nothing else as one' do
    path = Config.path('picture.png')
    File.binwrite(path, Demo::OfficeFiles.picture)
    Dir.mktmpdir do |work|
      Demo.write_files("#{work}/tree",
                       { 'plan.png' => [Demo::OfficeFiles.picture, Time.now], 'page.html' => ['<script>alert(1)</script>', Time.now] })
      system('mke2fs', '-q', '-F', '-t', 'ext4', '-d', "#{work}/tree", File.join(Shelf.first.path, 'volume'), '8M', exception: true)
    end
    call(:post, "/shelves/#{Shelf.first.id}/look")
    work_off
    volume = Image.find_by!(path: 'volume')
    expect(call(:get,
                "/images/#{volume.id}")).to include('table' => nil,
                                                    'parts' => [include('number' => 1,
                                                                        'volume' => include('kind' => 'ext4'))])
    expect(call(:get, "/images/#{volume.id}/parts/1/preview?path=/plan.png")).to include('kind' => 'picture')
    get "/api/images/#{volume.id}/parts/1/picture?path=/plan.png"
    expect(last_response.headers).to include('content-type' => 'image/png', 'content-security-policy' => /sandbox|default-src 'none'/)
    expect(last_response.body.b).to eq(Demo::OfficeFiles.picture)
    expect(call(:get, "/images/#{volume.id}/parts/1/preview?path=/page.html")).to include('kind' => 'text')
    get "/api/images/#{volume.id}/parts/1/picture?path=/page.html"
    expect(last_response.status).to eq(404)
  end

  it 'give files out as an archive' do
    get "/api/images/#{image.id}/parts/2/take?kind=tar&path[]=/home/timetable.txt&path[]=/etc"
    expect(last_response.headers).to include('content-type' => 'application/x-tar',
                                             'content-disposition' => /attachment; filename="TKT-03-.*\.tar"/)
    names = IO.popen(%w[tar -tf -], 'r+b') do |tar|
      tar.write(last_response.body)
      tar.close_write
      tar.read.lines(chomp: true)
    end
    expect(names).to include('timetable.txt', 'etc/hostname', 'etc/fstab')
    expect(Event.find_by!(kind: 'files_taken').text).to start_with('/home/timetable.txt, /etc taken out, of the image of')
  end

  it 'are found by the names of files inside, once they were checked' do
    expect(call(:get, '/files?q=timetable.txt')).to be_empty
    unchecked = call(:get, '/files/unsearched')['unchecked']
    expect(unchecked).to eq(Image.there.where(checked_at: nil).count)
    [image, older].each { |one| check(one) }
    groups = call(:get, '/files?q=timetable')
    expect(groups).to contain_exactly(include('path' => '/home/timetable.txt', 'part' => 2))
    expect(groups.first['images'].map { |one| one['image_id'] }).to eq([image.id, older.id])
    expect(groups.first['images'].map { |one| one['modified_at'] }.uniq.size).to eq(2)
    expect(call(:get, '/files?q=table.t').first['name']).to eq('timetable.txt')
    image.reload.update!(unsearched: [*image.unsearched, { part: 9, kind: 'luks2' }])
    expect(call(:get, '/files/unsearched')).to match('unchecked' => unchecked - 2, 'parts' => include(
      'image_id' => image.id, 'computer' => 'TKT-03', 'taken_at' => image.taken_at.iso8601, 'part' => 9, 'kind' => 'luks2'
    ))
    expect(call(:get, '/find?q=timetable.txt')).to include(include('kind' => 'file', 'detail' => /In 2 images/))
  end

  it 'are laid beside each other' do
    found = call(:get, "/images/#{image.id}/compare/#{older.id}")
    expect(found['older']['id']).to eq(older.id)
    system = found['parts'].find { |part| part['number'] == 2 }
    tickets = system['folders'].find { |folder| folder['path'].match?(%r{/home/tickets/\d+/\d+}) && folder['came'].positive? }
    expect(tickets['files'].first).to include('change' => 'came', 'before' => nil)
    expect(system['folders'].flat_map { |folder| folder['files'] }).to include(include('name' => 'timetable.txt', 'change' => 'changed'))
    expect(found['parts'].find { |part| part['number'] == 1 }).to include('came' => 0, 'went' => 0)
  end

  it 'are tried in the emulator without a docket' do
    expect(call(:post, "/images/#{image.id}/trial")).to include('state' => 'queued')
    allow(Evrel::Startup::Trial).to receive(:missing).and_return('this machine lacks an emulator')
    work_off
    expect(TrialStart.last).to have_attributes(docket: nil, outcome: 'unavailable')
  end

  it 'of a packed disk are unpacked by their check, and sealed only then' do
    raw = Config.path('small.raw')
    FileUtils.rm_f(raw)
    Evrel::Disk::File.create(raw, 700 * (10**6) / 512 * 512)
    Demo.run('sfdisk', '-q', raw, input: "label: gpt\nsize=600M, type=4F68BCE3-E8CD-4DB1-96E7-FBCAF984B709\n")
    Dir.mktmpdir do |work|
      Demo.write_files(work, { 'etc/hostname' => ["TKT-03\n", Time.now], 'srv/tides.db' => ['x', Time.now] })
      Demo.make_ext4(raw, work, start: 1024**2, bytes: 600 * (1024**2), label: 'quay')
    end
    system('zstd', '-q', '-1', raw, '-o', File.join(Shelf.first.path, 'no hint'), exception: true)
    call(:post, "/shelves/#{Shelf.first.id}/look")
    work_off
    packed = Image.find_by!(path: 'no hint')
    expect(call(:get, "/images/#{packed.id}")).to include('format' => 'raw, zstd', 'provisional' => true, 'used_bytes' => 0)
    seal('computer')
    seal('image', image_id: packed.id, reason: 'r')
    expect([status, message]).to match([409, /packed, and was not unpacked yet/])

    check(packed)
    expect(call(:get,
                "/images/#{packed.id}")).to include('provisional' => false, 'state' => 'whole', 'computer' => 'TKT-03',
                                                    'used_bytes' => be > 10**6)
    seal('image', image_id: packed.id, reason: 'r')
    expect(status).to eq(200)
  end

  # As if this sector of a file had not been readable when the image was taken.
  def unread!
    at = ImageAccess.open(image) do |opened|
      volume = Evrel::Image::Contents.new(opened).volume(2)
      image.document.partition(2)['start_bytes'] + volume.file_extents(volume.entry('/home/receipts/scan-0000.bin')).max_by(&:last).first
    end
    path = File.join(image_path, 'manifest.json')
    File.write(path, JSON.generate(JSON.parse(File.read(path)).merge('unread' => [[at, 512]])))
    sums = File.join(image_path, 'SHA256SUMS')
    File.write(sums, File.read(sums).sub(/^\h+  manifest/, "#{OpenSSL::Digest::SHA256.file(path).hexdigest}  manifest"))
    LookThrough.new(image.shelf).run
  end

  it 'that were not read in full are sealed and written by decision only, knowing the files' do
    unread!
    expect(call(:get, "/images/#{image.id}")).to include('unread' => 1, 'check' => include('unread' => /a check tells which files/))
    check
    expect(image.reload).to be_whole
    words = '1 sector could not be read when it was taken, in System: 1 file'
    expect(call(:get, "/images/#{image.id}")['check'])
      .to include('unread' => words, 'unread_hit' => [include('path' => '/home/receipts/scan-0000.bin')])
    seal('computer')
    seal('image', image_id: image.id)
    expect([status, message]).to eq([409, 'not all of the disk could be read'])
    expect(JSON.parse(last_response.body)['hint']).to start_with(words)
    seal('image', image_id: image.id, reason: 'only a scan, it is on paper')
    expect(docket.seal('image').decision).to include('unread' => 1, 'reason' => 'only a scan, it is on paper')
    expect(station('image')['facts']).to include(include('id' => 'unread', 'state' => 'no', 'detail' => words))
    seal('target', drive_id: drive(Requests::REPLACEMENT).id, label: '7Q4F', reason: 'old stock')
    seal('layout')
    call(:post, "/dockets/#{docket.id}/write")
    work_off
    expect(Write.last).to have_attributes(state: 'done', verified: true)
  end

  it 'sealed without a check show that for good' do
    seal('computer')
    seal('image', image_id: image.id, reason: 'no time')
    expect(station('image')['facts']).to include(include('id' => 'reason', 'detail' => '“no time”'))
    check
    expect(station('image')['facts']).to include(include('id' => 'reason', 'detail' => '“no time”'))
  end

  it 'are given up by a lead, offered to nobody from then on, and taken back' do
    give_up = ->(because = 'it was taken by mistake') { call(:post, "/images/#{image.id}/give-up", because:) }
    seal_up_to('image')
    give_up.call
    expect([status, message]).to match([409, /D-0001 is sealed on it/])
    call(:delete, "/dockets/#{docket.id}/stations/image/seal", reason: 'another one')
    Image.update_all(state: 'whole', checked_at: Time.now) # it is not the last one
    there = call(:get, '/images')['total']
    expect(give_up.call).to include('given_up' => include('because' => 'it was taken by mistake'))
    page = call(:get, '/images')
    expect([page['total'], page['states']['given_up']]).to eq([there - 1, 1])
    expect(call(:get, '/images?state=given_up')['images'].map { |one| one['id'] }).to eq([image.id])
    expect(station('image')['view']['images'].map { |one| one['id'] }).not_to include(image.id)
    LookThrough.new(image.shelf).run
    expect(image.reload).to have_attributes(given_up_at: be_present, gone_at: nil)
    seal('image', image_id: image.id)
    expect(status).to eq(409)
    sign_in('kaja')
    call(:delete, "/images/#{image.id}/give-up")
    expect(status).to eq(403)
    sign_in
    expect(call(:delete, "/images/#{image.id}/give-up")['given_up']).to be_nil
    expect(call(:get, '/images')['total']).to eq(there)
  end
end
