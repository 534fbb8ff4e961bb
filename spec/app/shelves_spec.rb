# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'Shelves' do
  before { sign_in }

  let(:folder) { Config.path('bench', 'shares', 'spec').tap { |path| FileUtils.mkdir_p(path) } }

  def message = JSON.parse(last_response.body)['message']
  def shelf(name) = call(:get, '/shelves').find { |one| one['name'] == name }

  def copy_in(name)
    FileUtils.mkdir_p(folder)
    FileUtils.cp_r(image_path, File.join(folder, name))
  end

  it 'are added as folders, and looked through at once' do
    copy_in('office')
    call(:post, '/shelves', kind: 'folder', name: 'Share', path: folder)
    expect(status).to eq(201)
    expect(shelf('Share')).to include('kind' => 'folder', 'images' => 0, 'look' => include('state' => 'queued'))
    work_off
    expect(shelf('Share')).to include('images' => 1, 'reachable' => true, 'free_bytes' => be_positive, 'look' => include('state' => 'idle'))
    expect(Event.last).to have_attributes(kind: 'shelf_looked', text: /6 files, 1 images new/)
  end

  it 'are refused with what is wrong' do
    { { kind: 'folder', name: '', path: folder } => [422, /Name is missing/], { kind: 'tape', name: 'x' } => [422, /none of/],
      { kind: 'folder', name: 'Holm', path: folder } => [422, /taken by another shelf/],
      { kind: 'folder', name: 'x', path: 'relative' } => [409, /full path/],
      { kind: 'folder', name: 'x', path: '/nowhere' } => [409, /no folder that can be read/],
      { kind: 'folder', name: 'x', path: '/etc' } => [409, /not a place for a shelf/],
      { kind: 'folder', name: 'x', path: Config.var } => [409, /not a place for a shelf/],
      { kind: 'folder', name: 'x', path: Config::ROOT } => [409, /not a place for a shelf/],
      { kind: 'folder', name: 'x', path: Config.path('bench', 'drives') } => [409, /not a place for a shelf/],
      { kind: 'drive', name: 'x', drive_id: 99 } => [409, /not attached/],
      { kind: 'web', name: 'x', address: 'nonsense' } => [409, /no web address/] }.each do |given, (code, text)|
      call(:post, '/shelves', **given)
      expect([status, message]).to match([code, text]), given.inspect
    end
    expect(Shelf.count).to eq(1)
  end

  it 'are drives by serial and volume, whatever the port' do
    drive = drive('OS1T-88C02M')
    call(:delete, "/shelves/#{Shelf.first.id}")
    uuid = AttachedDrives.contents(AttachedDrives.by_key(drive.serial)).parts.first.dig('volume', 'uuid')
    call(:post, '/shelves', kind: 'drive', name: 'Back again', drive_id: drive.id, volume_uuid: uuid)
    expect(status).to eq(201)
    work_off
    bench.pull('2')
    expect(shelf('Back again')).to include('reachable' => false, 'images' => 2, 'whereabouts' => /…C02M, last seen .* on port 2/)
    bench.plug(drive.serial, '6')
    expect(shelf('Back again')).to include('reachable' => true, 'port' => '6')
    Shelf.find_by(name: 'Back again').update!(volume_uuid: 'another')
    expect(shelf('Back again')).to include('reachable' => false)
  end

  it 'are drives that tell no serial, too' do
    path = plugged('', '5', name: 'card', 'capacity' => 64 * Disks::MIB, 'wwn' => nil, 'removable' => true)
    run('mke2fs', '-q', '-F', path)
    FileUtils.mkdir_p(Config.path('bench', 'shelves', 'card'))
    card = AttachedDrives.list.find { |one| one.port == '5' }
    call(:post, '/shelves', kind: 'drive', name: 'Card', drive_id: AttachedDrives.remember.fetch(card.key).id)
    expect(status).to eq(201), last_response.body
    expect(shelf('Card')).to include('reachable' => true, 'port' => '5')
  end

  describe 'on the web' do
    let(:address) { served(folder) }

    before do
      copy_in('cam')
      misbehave(folder, user: 'quay', password: 'lamp-and-rope')
    end

    def add(password)
      call(:post, '/shelves', kind: 'web', name: 'Far', address:, user: 'quay', password:)
    end

    it 'keep their password out of the database, the answers and the events' do
      add('lamp-and-rope')
      expect(status).to eq(201)
      work_off
      expect(shelf('Far')).to include('images' => 1, 'kind' => 'web', 'user' => 'quay')
      dump = %w[shelves events delayed_jobs images].map { |table| DemoState.sql("SELECT * FROM #{table}").to_a.inspect }.join
      expect(dump + call(:get, '/shelves').inspect).not_to include('lamp-and-rope')
      secret = Dir[Config.path('secrets', '*')].first
      expect([File.read(secret), File.stat(secret).mode & 0o077]).to eq(['lamp-and-rope', 0])
    end

    it 'say when a sign-in is wrong, and when it is lost' do
      add('wrong')
      expect([status, message]).to match([422, /another sign-in/])
      add('lamp-and-rope')
      work_off
      misbehave(folder, lost_password: true)
      call(:post, "/shelves/#{Shelf.last.id}/look")
      work_off
      expect(shelf('Far')).to include('reachable' => false, 'images' => 1,
                                      'look' => include('state' => 'failed', 'error' => /another sign-in/))

      misbehave(folder, user: 'quay', password: 'new')
      call(:patch, "/shelves/#{Shelf.last.id}", password: 'new', name: 'Farther')
      call(:post, "/shelves/#{Shelf.last.id}/look")
      work_off
      expect(shelf('Farther')).to include('reachable' => true)
    end

    it 'hold images that can be checked and looked into' do
      add('lamp-and-rope')
      work_off
      far = Shelf.last.images.first
      call(:post, "/images/#{far.id}/check")
      work_off
      expect(far.reload.state).to eq('whole')
      expect(call(:get, "/images/#{far.id}/parts/2/files?path=/home")['entries'].map { |entry| entry['name'] }).to include('timetable.txt')
    end
  end

  it 'keep their images when they are looked through while files come and go' do
    shelf = Shelf.first
    copy_in('x')
    FileUtils.cp_r(image_path, File.join(shelf.path, 'new'))
    FileUtils.rm_rf(File.join(shelf.path, 'tkt03-2'))
    call(:post, "/shelves/#{shelf.id}/look")
    work_off
    expect(Image.find_by(path: 'tkt03-2').gone_at).not_to be_nil
    expect(call(:get, '/images')['images'].map { |one| one['path'] }).to contain_exactly('2-full', 'new')
  end

  it 'break the seal on an image that is gone when they are looked through' do
    seal_up_to('target')
    FileUtils.rm_rf(image_path)
    call(:post, "/shelves/#{Shelf.first.id}/look")
    work_off
    call(:get, "/dockets/#{docket.id}")
    expect(docket.reload).to have_attributes(source: nil, target: nil)
    expect(docket.seals.where(station: 'image').last.broken_because).to eq('the image is gone from its shelf')
  end

  it 'are taken away only where no docket needs them' do
    seal_up_to('image')
    call(:delete, "/shelves/#{Shelf.first.id}")
    expect([status, message]).to match([409, /dockets name images/])
    call(:post, '/shelves', kind: 'folder', name: 'Share', path: folder)
    work_off
    task = DriveTask.create!(kind: 'save', state: 'running', drive: Drive.first, shelf: Shelf.last, technician: Technician.first,
                             params: { port: '1' })
    call(:delete, "/shelves/#{Shelf.last.id}")
    expect([status, message]).to match([409, /Saving files of the drive in port 1 is going on/])
    task.update!(state: 'done', result: { files: 1 })
    moved = Image.where.not(id: image.id).first.tap { |one| one.update!(shelf: Shelf.last) }
    trial = TrialStart.create!(image: moved, technician: Technician.first, state: 'running')
    trial.inputs.create!(typed: { text: 'x' })
    call(:delete, "/shelves/#{Shelf.last.id}")
    expect([status, message]).to match([409, /Trial start is going on/])
    trial.update!(state: 'done', outcome: 'reached')
    call(:delete, "/shelves/#{Shelf.last.id}")
    expect(status).to eq(200)
    expect(task.reload).to have_attributes(state: 'done', shelf: nil)
    expect(Dir.exist?(folder)).to be(true)
  end
end
