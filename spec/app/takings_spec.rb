# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'Taking an image of a drive' do
  let(:record) { drive(Requests::REPLACEMENT) }
  let(:holm) { Shelf.find_by!(name: 'Holm') }
  let(:source) { Drive.find_by!(identity_key: AttachedDrives.list.max_by { |one| AttachedDrives.contents(one).systems.size }.key) }

  before { sign_in }

  def sheet(of = source) = call(:get, "/drives/#{of.id}/taking")
  def take(of = source, **given) = call(:post, "/drives/#{of.id}/takings", shelf_id: holm.id, **given)
  def taking = Taking.order(:id).last
  def message = JSON.parse(last_response.body)['message']

  def measured
    call(:post, "/drives/#{source.id}/measure")
    work_off
    sheet
  end

  it 'says what is on it and where it could go, and measures what each level would take' do
    expect(sheet).to include('attached' => true, 'measure' => nil)
    found = measured
    expect(found['measure']).to include('state' => 'done')
    system = found['measure']['result']['parts'].max_by { |part| part['used_bytes'] }
    expect(system['with'].values.map { |one| one['stored'] }).to all(satisfy { |low, high| low.positive? && low <= high })
    expect(system['with']['small']['stored'].first).to be <= system['with']['quick']['stored'].last
    expect(found['parts'].find { |part| part['role'] == 'system' }['with_it']).not_to be_empty
    expect(call(:post, "/drives/#{source.id}/measure")['id']).to eq(found['measure']['id']) # not measured again
  end

  it 'offers no shelf on the drive itself, nor one that is away' do
    shelf = Shelf.where(kind: 'drive').find { |one| AttachedDrives.of(one.drive) }
    places = sheet(shelf.drive)['shelves'].to_h { |one| [one['name'], one['state']] }
    expect(places).to include(shelf.name => 'no')
    expect(sheet(record)['shelves'].to_h { |one| [one['name'], one['state']] }).to include('Holm' => 'ok')
    call(:post, "/drives/#{shelf.drive_id}/takings", shelf_id: shelf.id)
    expect([status, message]).to match([409, /lies on this very drive/])
  end

  it 'takes chosen parts, checked afterwards, under a name by rule, and is a whole image in the catalogue' do
    measured
    numbers = sheet['parts'].select { |part| %w[startup system].include?(part['role']) }.map { |part| part['number'] }
    begun = take(parts: numbers, level: 'quick', temporary: false, note: 'Before the season')
    expect(begun).to include('state' => 'queued', 'parts' => numbers, 'note' => 'Before the season')
    expect(begun['folder']).to match(%r{\A[\w.-]+/[\w.-]+-\d{4}-\d\d-\d\d-\d{4}\z})
    work_off
    done = call(:get, "/takings/#{begun['id']}")
    expect(done).to include('state' => 'done', 'image' => include('state' => 'whole'))
    expect(done['summary']['stored']).to be_between(*done['expected']['stored'].zip([0.8, 1.3]).map { |bytes, factor| bytes * factor })
    image = Image.find(done['image']['id'])
    expect(image.document.partitions.map { |part| part['number'] }).to eq(numbers)
    expect(image.document.note).to eq('Before the season')
    expect(run('qemu-img', 'check', File.join(holm.path, done['folder'], 'disk.qcow2'))).to include('No errors')
    expect(Dir[File.join(holm.path, '**', '*.part-*')]).to be_empty
    expect(Event.where(kind: 'taking_done').count).to eq(1)
  end

  it 'is made whole in the background where nothing could be taken on top of it any more' do
    stub_const('Evrel::Image::Below::DEEPEST', 1)
    take
    work_off
    first = taking
    take(onto_id: first.image_id)
    work_off
    second = taking.image.reload
    expect(ImageTask.sole).to have_attributes(kind: 'merge', state: 'done')
    expect([second.document.onto, second.state]).to eq([nil, 'whole'])
    expect(second.built_on).to be_empty
    expect(first.image.built_on).to be_empty
    expect(run('qemu-img', 'info', File.join(taking.path, 'disk.qcow2'))).not_to include('backing file')
    expect(run('qemu-img', 'compare', *[first, taking].map { |one| File.join(one.path, 'disk.qcow2') })).to include('identical')
  end

  it 'stores only what changed since an image of the same drive, on the same shelf, which is not given up then' do
    Technician.update_all(role: 'lead')
    take
    work_off
    first = taking
    base = sheet['bases'].first
    expect(base).to include('id' => first.image_id, 'depth' => 1)
    second = take(onto_id: base['id'])
    expect(second['onto']).to include('id' => base['id'])
    work_off
    done = taking
    expect(done.image.reload).to be_whole
    expect(done.summary['stored']).to be < first.summary['stored'] / 10
    expect(run('qemu-img', 'compare', *[first, done].map { |one| File.join(one.path, 'disk.qcow2') })).to include('identical')
    call(:post, "/images/#{base['id']}/give-up", because: 'old')
    expect([status, message]).to match([409, /1 image on its shelf holds only what differs from it/])
    take(onto_id: 999_999)
    expect([status, message]).to match([409, /nothing can be taken on top of that image/])
  end

  it 'does not begin twice, nor while the drive is written to, nor where there is no such part, nor without room' do
    take
    take
    expect([status, message]).to match([409, /has an image taken of it already/])
    taking.update!(state: 'stopped')
    take(parts: [77])
    expect([status, message]).to match([409, /no part 77/])
    take(parts: [])
    expect([status, message]).to match([409, /no part is chosen/])
    measured
    allow(TakingPlaces).to receive(:free).and_return(10)
    take
    expect([status, message]).to match([409, /lacks .* at the least/])
    DriveTask.create!(drive: source, technician: Technician.first, kind: 'clean', state: 'queued', params: { port: '1' })
    take
    expect([status, message]).to match([409, /Cleaning of the drive .* is going on/])
  end

  it 'keeps the drive from what would write to it' do
    take(record)
    taking.update!(state: 'running')
    call(:post, "/drives/#{record.id}/clean", how: 'signatures', label: record.serial[-4..], reason: 'old')
    expect([status, message]).to match([409, /Taking an image of the drive .* is going on/])
  end

  # The worker in this process asks whether somebody wants it to end as often as it can.
  def asked_at_once(&)
    allow(TakingRun).to receive(:every).and_return(0.0)
    stub_const('Evrel::Image::Capture::NOTED', 0.0)
    allow_any_instance_of(Telling).to receive(:call).and_wrap_original do |original, **given, &block|
      original.call(**given, &block).tap(&)
    end
  end

  it 'pauses, goes on from there, and ends as one that was never paused' do
    take
    asked_at_once { taking.update!(pause_asked: true) if taking.progress.to_h['done'].to_i.positive? }
    work_off
    expect(taking).to have_attributes(state: 'paused', image: nil)
    expect(Dir[taking.unfinished_path]).not_to be_empty
    expect(Dir[taking.path]).to be_empty
    RSpec::Mocks.space.reset_all
    call(:post, "/takings/#{taking.id}/go-on")
    work_off
    expect(taking).to have_attributes(state: 'done')
    expect(taking.image.reload).to be_whole
    expect(Dir["#{taking.path}.part*"]).to be_empty
  end

  it 'pauses while it is read back, says how far that is, and goes on from there' do
    take
    told = nil
    asked_at_once do
      next unless taking.progress.to_h['checked']

      told ||= call(:get, "/takings/#{taking.id}")
      taking.update!(pause_asked: true)
    end
    work_off
    expect(told['progress']).to include('checked' => be_positive, 'check_seconds' => be >= 0.0)
    expect(taking).to have_attributes(state: 'paused', image: nil)
    RSpec::Mocks.space.reset_all
    call(:post, "/takings/#{taking.id}/go-on")
    work_off
    expect(taking).to have_attributes(state: 'done', progress: include('done' => taking.progress['total']))
    expect(taking.image.reload).to have_attributes(state: 'whole', indexed_at: be_present)
  end

  it 'waits for its shelf where that is pulled while it is read back' do
    take
    away = "#{holm.path}-away"
    allow_any_instance_of(Evrel::Image::Closing).to receive(:check) do
      File.rename(holm.path, away)
      raise Evrel::Unreadable.new('its files cannot be read', where: 'shelf') # as readers say it
    end
    work_off
    expect(taking).to have_attributes(state: 'failed', away: 'shelf', image: nil)
  ensure
    File.rename(away, holm.path)
  end

  it 'is stopped, and nothing of it is kept' do
    take
    asked_at_once { taking.update!(stop_asked: true) }
    work_off
    expect(taking).to have_attributes(state: 'stopped')
    expect(Dir["#{taking.path}*"]).to be_empty
    call(:post, "/takings/#{taking.id}/go-on")
    expect(status).to eq(409)
  end

  it 'fails where the drive is pulled, and goes on by itself when it is back, in whatever port' do
    take
    handle = AttachedDrives.of(source)
    asked_at_once { AttachedDrives.of(source) && bench.pull(handle.port) if taking.progress.to_h['done'].to_i.positive? }
    work_off
    expect(taking).to have_attributes(state: 'failed', away: 'drive')
    RSpec::Mocks.space.reset_all
    expect(TakingResume.resume).to be_empty
    free = bench.port_names.find { |port| AttachedDrives.list.none? { |one| one.port == port } }
    bench.plug(handle.handle, free)
    expect(TakingResume.resume).to eq([taking])
    work_off
    expect(taking).to have_attributes(state: 'done', port: free)
  end

  it 'does not go on with a drive that is another than it was' do
    take
    taking.update!(state: 'paused', fingerprint: 'another')
    call(:post, "/takings/#{taking.id}/go-on")
    work_off
    expect(taking).to have_attributes(state: 'failed', error: /not as it was/)
  end
end

RSpec.describe 'Salvaging a failing drive' do
  let(:source) { Drive.find_by!(identity_key: AttachedDrives.list.max_by { |one| AttachedDrives.contents(one).systems.size }.key) }
  let(:holm) { Shelf.find_by!(name: 'Holm') }
  let(:taking) { Taking.order(:id).last }
  # On the contents of the largest file.
  let(:place) do
    attached = AttachedDrives.of(source)
    disk = attached.open
    map = Evrel::Image::UsedMap.new(disk)
    part = map.parts.max_by(&:used_bytes)
    file = part.volume.each_entry('/').select(&:file?).max_by(&:size)
    [part.start + part.volume.content_extents(file).max_by(&:last).first + 65_536, file.path]
  ensure
    disk&.close
  end

  before { sign_in }

  def failing(**faults) = bench.change_drive(AttachedDrives.of(source).handle) { |about| about['faults'] = faults.transform_keys(&:to_s) }
  def take(**given) = call(:post, "/drives/#{source.id}/takings", shelf_id: holm.id, salvage: true, **given)

  it 'reads it in passes, names the files that are hit, and ends as an image that says what is missing' do
    stub_const('Evrel::Salvage::Run::NOTED', -1)
    allow(TakingRun).to receive(:every).and_return(0.0)
    stub_const('SalvageTold::EVERY', -1)
    failing(unreadable: [[place.first, 1024]])
    take(retries: 0)
    told = []
    allow_any_instance_of(SalvageTold).to(receive(:of).and_wrap_original { |original, one| original.call(one).tap { |got| told << got } })
    work_off
    expect(taking).to have_attributes(state: 'done')
    expect(told.map { |one| one[:pass] }.uniq).to include(:structures, :used, :edges, :sectors)
    expect(told.last[:hit].map { |one| one[:path] }).to eq([place.last])
    done = call(:get, "/takings/#{taking.id}")
    expect(done['summary']['unread']).to eq(2)
    image = taking.image.reload
    expect(image.document.unread).to eq([[place.first, 1024]])
    expect(image).to be_whole
    expect(Dir.children(taking.path)).to include('salvage.json')
    expect(Dir["#{taking.path}.*"]).to be_empty
  end

  it 'fills the gaps of an image that was taken before, and reads nothing else' do
    failing(unreadable: [[place.first, 1024]])
    take(retries: 0)
    work_off
    last = -> { Taking.order(:id).last }
    first = last.call.image
    expect(call(:get, "/drives/#{source.id}/taking")['lacking']).to match([include('id' => first.id, 'unread' => 2, 'there' => true)])
    # It gives one of the two today.
    failing(unreadable: [[place.first, 512]])
    take(retries: 0, fills_id: first.id, salvage: false)
    expect([status, JSON.parse(last_response.body)['message']]).to match([409, /only a salvage/])
    take(retries: 0, fills_id: first.id)
    expect(status).to eq(202)
    work_off
    expect(last.call).to have_attributes(state: 'done', fills: first)
    expect(last.call.image.reload.document.unread).to eq([[place.first, 512]])
    # What is not as it was is read whole or not at all.
    disk = AttachedDrives.of(source)
    system = AttachedDrives.contents(disk).parts.find { |part| part['role'] == 'system' }
    File.open(disk.local_path, 'r+b') { |io| io.pwrite([Time.now.to_i].pack('V'), system['start_bytes'] + 1024 + 48) }
    take(retries: 0, fills_id: first.id)
    work_off
    expect(last.call).to have_attributes(state: 'failed', error: /not as it was when that image was taken/)
  end

  it 'rests at its time, goes on from its map, and is made an image of when what matters is there' do
    take(minutes: 1)
    taking.update!(minutes: nil)
    allow(Evrel::Salvage::Run).to(receive(:new).and_wrap_original { |original, *given, **how| original.call(*given, **how, seconds: -1) })
    work_off
    expect(taking.reload).to have_attributes(state: 'paused', error: /its time is over/)
    expect(File.exist?(File.join(taking.salvage_path, 'map.json'))).to be(true)
    Taking.where(id: taking.id).update_all(shelf_id: holm.id)
    call(:post, "/takings/#{taking.id}/enough")
    expect(status).to eq(200)
    RSpec::Mocks.space.reset_all
    work_off
    expect(taking.reload).to have_attributes(state: 'done')
    expect(taking.image.reload.document.unread_sectors).to be_positive
    expect(Dir["#{taking.path}.*"]).to be_empty
  end

  it 'is no image on its shelf until it is made one' do
    take
    allow(Evrel::Salvage::Run).to(receive(:new).and_wrap_original { |original, *given, **how| original.call(*given, **how, seconds: -1) })
    work_off
    before = holm.images.there.count
    call(:post, "/shelves/#{holm.id}/look")
    work_off
    expect(holm.images.there.count).to eq(before)
    expect(holm.shelf_files.where('path LIKE ?', '%salvage%')).to be_empty
    call(:post, "/takings/#{taking.id}/stop")
    expect(Dir["#{taking.path}*"]).to be_empty
  end
end

RSpec.describe 'Images with a passphrase' do
  let(:source) { Drive.find_by!(identity_key: AttachedDrives.list.max_by { |one| AttachedDrives.contents(one).systems.size }.key) }
  let(:holm) { Shelf.find_by!(name: 'Holm') }
  let(:taking) { Taking.order(:id).last }
  let(:image) { taking.image.reload }
  let(:word) { 'tide and time 7' }

  before do
    stub_const('Evrel::Luks::SECONDS', 0.0) # to try one is quick here
    sign_in
  end

  after { Passphrases.forget(taking.image_uid) if taking }

  def message = JSON.parse(last_response.body)['message']

  def taken
    call(:post, "/drives/#{source.id}/takings", shelf_id: holm.id, level: 'quick', passphrase: word)
    work_off
    expect(taking).to have_attributes(state: 'done', locked: true)
  end

  it 'are taken, checked, locked, found all the same, opened again, and known to open' do
    taken
    expect(image).to be_whole
    expect(call(:get, "/drives/#{source.id}/taking")['bases'].map { |one| one['id'] }).not_to include(image.id)
    shown = call(:get, "/images/#{image.id}")
    expect(shown['lock']).to include('open' => true, 'opened_at' => a_kind_of(String))
    expect(call(:delete, "/images/#{image.id}/unlock")['lock']).to include('open' => false)
    call(:get, "/images/#{image.id}/parts/2/files")
    expect([status, message]).to eq([422, 'it is locked'])
    call(:post, "/shelves/#{holm.id}/look")
    call(:post, "/images/#{image.id}/check")
    work_off
    expect(image.reload).to have_attributes(state: 'unchecked', problem: nil, locked: true)
    stub_const('Unlocking::WAITS', [0, 0.01])
    call(:post, "/images/#{image.id}/unlock", passphrase: 'tide and tide')
    expect([status, message]).to eq([422, 'the passphrase does not open it'])
    expect(call(:post, "/images/#{image.id}/unlock", passphrase: word)['lock']).to include('open' => true)
    call(:get, "/images/#{image.id}/parts/2/files")
    expect(status).to eq(200)
    expect(Event.where(kind: 'image_lock').pluck(:text)).to include(/locked again/, /passphrase was wrong/, /opened with its passphrase/)
    call(:post, "/images/#{Image.where(locked: false).first.id}/unlock", passphrase: word)
    expect(status).to eq(409)
  end

  it 'have the names of their files in the search only where somebody asked for it' do
    taken
    call(:delete, "/images/#{image.id}/unlock")
    call(:put, "/images/#{image.id}/names", wanted: true)
    expect([status, message]).to eq([422, 'it is locked'])
    call(:post, "/images/#{image.id}/unlock", passphrase: word)
    expect(ImageFile.where(image:)).to be_empty
    call(:put, "/images/#{image.id}/names", wanted: true)
    work_off
    expect(ImageFile.where(image:).count).to be > 5
    expect(call(:get, "/images/#{image.id}")['lock']).to include('names' => true)
    expect(call(:get, '/images')['images'].find { |one| one['id'] == image.id }['lock']).to include('names' => true)
    call(:delete, "/images/#{image.id}/unlock")
    call(:put, "/images/#{image.id}/names", wanted: false)
    expect(ImageFile.where(image:)).to be_empty
  end

  it 'are restored in a docket while they are open, and sealed on only then' do
    taken
    docket = Docket.find_by!(cause: 'drive_failed')
    path = "/dockets/#{docket.id}"
    call(:post, "#{path}/stations/computer/seal")
    call(:delete, "/images/#{image.id}/unlock")
    given = { image_id: image.id, reason: 'the last one, of the drive itself' }
    call(:post, "#{path}/stations/image/seal", **given)
    expect([status, message]).to eq([422, 'it is locked'])
    call(:post, "/images/#{image.id}/unlock", passphrase: word)
    call(:post, "#{path}/stations/image/seal", **given)
    call(:post, "#{path}/stations/target/seal", drive_id: drive(Requests::REPLACEMENT).id, label: Requests::REPLACEMENT[-4..],
                                                reason: 'old stock')
    call(:post, "#{path}/layout/plan", wish: { way: 'as_in_image' })
    call(:post, "#{path}/stations/layout/seal")
    expect(status).to eq(200)
    call(:post, "#{path}/write")
    work_off
    expect(docket.reload.write).to have_attributes(state: 'done', verified: true, source: image)
    target = AttachedDrives.by_key(docket.target.identity_key).local_path
    expect(run('sgdisk', '-v', target)).to include('No problems found')
    expect(run('e2fsck', '-f', '-n', "#{target}?offset=#{image.document.partition(2)['start_bytes']}")).to include('System')
  end

  # Only what was written of a file is read: a hole of 480 GB is one line for other tools.
  def holds?(path)
    return false if File.empty?(path)

    open_disk(path, logical_sector: 1) do |disk|
      disk.extents.any? do |offset, length|
        (offset...(offset + length)).step(1 << 20).any? do |at|
          disk.read(at, [(1 << 20) + word.bytesize, offset + length - at].min).include?(word.b)
        end
      end
    end
  end

  it 'leave their passphrase nowhere but in memory' do
    began = Time.now
    taken
    tables = ActiveRecord::Base.connection.tables.reject { |table| table.start_with?('kept_') }
    rows = tables.map { |table| ActiveRecord::Base.connection.select_rows("SELECT * FROM #{table}").inspect }
    expect(rows.join).not_to include(word)
    # What was not written to since holds nothing of it.
    files = [Config.var, holm.path].flat_map { |place| Dir.glob(File.join(place, '**', '*'), File::FNM_DOTMATCH) }
                                   .select { |path| File.file?(path) && File.mtime(path) >= began }
    expect(files.map { |path| File.basename(path) }).to include('disk.qcow2.luks', 'manifest.json')
    said = Config.path('said').tap { |path| File.write(path, "so much for #{word}") }
    expect([said, *files].select { |path| holds?(path) }).to eq([said])
    expect(Passphrases::KEPT.inspect).not_to include(word)
  end

  it 'go on when the passphrase is said again, after whoever knew it has ended' do
    call(:post, "/drives/#{source.id}/takings", shelf_id: holm.id, passphrase: word)
    Passphrases.forget(taking.image_uid)
    work_off
    expect(taking.reload).to have_attributes(state: 'failed', error: /not known any more/)
    call(:post, "/takings/#{taking.id}/go-on", passphrase: word)
    work_off
    expect(taking.reload).to have_attributes(state: 'done')
    expect(image).to be_whole
  end

  it 'are waited for by nobody for ever, where nothing answers' do
    stub_const('Passphrases::PATIENCE', 0.2)
    path = Config.path('passphrases.sock').tap { |name| FileUtils.rm_f(name) }
    mute = UNIXServer.new(path)
    expect(Timeout.timeout(10) { Passphrases.of('some-image') }).to be_nil
  ensure
    mute.close
    FileUtils.rm_f(path)
  end

  it 'are asked for by workers over a socket of this user alone' do
    thread = Passphrases.serve
    Passphrases.keep('some-image', word)
    asking = "require './app/boot'; print Passphrases.of('some-image').inspect, Passphrases.of('other').inspect"
    said, = Open3.capture2(RbConfig.ruby, '-rbundler/setup', '-e', asking, chdir: Config::ROOT)
    expect(said).to eq("#{word.inspect}nil")
    expect(File.stat(Config.path('passphrases.sock')).mode & 0o777).to eq(0o600)
  ensure
    thread&.kill
    Passphrases.forget('some-image')
    Passphrases.instance_variable_set(:@serving, nil)
  end
end
