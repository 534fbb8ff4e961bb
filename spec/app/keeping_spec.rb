# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'Keeping images' do
  let(:holm) { Shelf.find_by!(name: 'Holm') }
  let(:other) { shelf('Second') }
  let(:image) { whole.first }

  before do
    sign_in
    Technician.update_all(role: 'lead')
    look_through(holm)
    Image.update_all(state: 'whole', checked_at: Time.now)
  end

  def shelf(name)
    path = Config.path('tries', name).tap { |folder| FileUtils.mkdir_p(folder) }
    Shelf.find_by(name:) || Shelf.create!(name:, kind: 'folder', path:)
  end

  def look_through(shelf) = LookThrough.new(shelf).run
  def message = JSON.parse(last_response.body)['message']

  # Of one computer; the newest first.
  def whole = holm.images.there.order(taken_at: :desc)

  def bring(kind, onto = other, of = image) = call(:post, "/images/#{of.id}/bring", kind:, shelf_id: onto.id)

  def files(shelf, image)
    Evrel::Image::Native.files(Evrel::Shelf::Folder.new(shelf.path), image.path).to_h do |path|
      [File.basename(path), OpenSSL::Digest::SHA256.file(File.join(shelf.path, path)).hexdigest]
    end
  end

  it 'copies an image to another shelf, where it is whole at once, with the names of its files' do
    image.begin_check
    work_off
    names = image.reload.image_files.count
    expect(bring('copy')).to include('state' => 'queued', 'kind' => 'copy', 'shelf' => 'Second')
    work_off
    task = ImageTask.last
    expect(task).to have_attributes(state: 'done', error: nil)
    expect(task.made).to have_attributes(state: 'whole', uid: image.uid, computer: image.computer, shelf: other)
    expect(task.made.image_files.count).to eq(names)
    expect(files(other, task.made)).to eq(files(holm, image))
    expect(call(:get, "/images/#{image.id}")['task']).to be_nil
    look_through(other)
    expect(other.images.there.count).to eq(1)
  end

  it 'moves one: it is the same in every docket, and what lay on the old shelf is removed when it has arrived' do
    before = files(holm, image)
    old = File.join(holm.path, image.path)
    bring('move')
    work_off
    expect(image.reload).to have_attributes(shelf: other, state: 'whole', gone_at: nil, path: File.basename(old))
    expect(files(other, image)).to eq(before)
    expect(File.exist?(old)).to be(false)
    look_through(holm)
    expect(holm.images.on_shelf.where(uid: image.uid)).to be_empty
  end

  it 'removes what lay on the old shelf after all where it was cut off just before' do
    old = File.join(holm.path, image.path)
    FileUtils.mkdir_p(Config.path('tries'))
    FileUtils.cp_r(old, Config.path('tries', 'as-it-was'))
    bring('move')
    work_off
    FileUtils.mkdir_p(File.dirname(old))
    FileUtils.mv(Config.path('tries', 'as-it-was'), old)
    ImageTask.last.update!(state: 'failed') # as it is when its worker was killed
    call(:post, "/image-tasks/#{ImageTask.last.id}/go-on")
    work_off
    expect(ImageTask.last.state).to eq('done')
    expect(File.exist?(old)).to be(false)
    expect(image.reload.shelf).to eq(other)
  end

  it 'goes on with a copy whose shelf was away, and keeps nothing of one that is stopped' do
    bring('copy')
    FileUtils.mv(other.path, "#{other.path}-away")
    work_off
    expect(ImageTask.last).to have_attributes(state: 'failed', error: /not attached/)
    expect(call(:get, "/images/#{image.id}")['task']).to include('state' => 'failed')
    call(:post, "/image-tasks/#{ImageTask.last.id}/go-on")
    expect([status, message]).to match([409, /not attached/])
    FileUtils.mv("#{other.path}-away", other.path)
    call(:post, "/image-tasks/#{ImageTask.last.id}/go-on")
    ImageTask.last.update!(stop_asked: true)
    work_off
    expect(ImageTask.last.state).to eq('stopped')
    expect(Dir.children(other.path)).to be_empty
  end

  it 'refuses what cannot be: the same shelf, no room, a web place, a part of a chain, one that is read just now' do
    bring('copy', holm)
    expect([status, message]).to match([409, /lies on Holm already/])
    run('mount', '-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', other.path)
    bring('copy')
    expect([status, message]).to match([409, /Second lacks/])
    run('umount', other.path)
    image.update!(state: 'checking')
    bring('move')
    expect([status, message]).to match([409, /being read just now/])
    image.update!(state: 'whole')
    image.update!(manifest: image.manifest.merge('onto' => { 'id' => 'x', 'path' => '../x', 'depth' => 1 }))
    bring('copy')
    expect([status, message]).to match([409, /holds only what differs/])
  end

  it 'lets what was given up lie for fourteen days, and removes exactly its files then' do
    old = whole.last
    folder = File.join(holm.path, old.path)
    File.write(File.join(folder, 'notes.txt'), 'of somebody')
    given = call(:post, "/images/#{old.id}/give-up", because: 'old')
    expect(Time.iso8601(given['given_up']['until'])).to be_within(60).of(14.days.from_now)
    (0..13).each { |days| Bin.empty(days.days.from_now) }
    expect(old.reload.gone_at).to be_nil
    expect(call(:delete, "/images/#{old.id}/give-up")['given_up']).to be_nil
    call(:post, "/images/#{old.id}/give-up", because: 'old')
    # The clock was set ahead, and back, and ahead: the bin was seen on two days.
    [20, 0, 20].each { |days| expect(Bin.empty(days.days.from_now)).to eq([]) }
    expect((1..15).map { |days| Bin.empty(days.days.from_now) }.reject(&:empty?)).to eq([[old]])
    expect(Dir.children(folder)).to eq(['notes.txt'])
    expect(old.reload.gone_at).not_to be_nil
    call(:delete, "/images/#{old.id}/give-up")
    expect([status, message]).to match([409, /removed from its shelf/])
  end

  it 'removes nothing for somebody who gave it up before there was a bin, and at once where a lead says so' do
    whole.last.update!(given_up_at: 1.year.ago, given_up_because: 'old')
    expect(Bin.empty).to be_empty
    call(:delete, "/images/#{Image.given_up.last.id}/files")
    expect(Image.given_up).to be_empty
    call(:delete, "/images/#{whole.first.id}/files")
    expect([status, message]).to match([409, /was not given up/])
  end

  it 'does not give up the last whole image of a computer' do
    first, last = whole.to_a
    call(:post, "/images/#{first.id}/give-up", because: 'old')
    call(:post, "/images/#{last.id}/give-up", because: 'old')
    expect([status, message]).to match([409, /the last whole image of #{image.computer.name}/])
    call(:post, '/images-give-up', ids: [last.id], because: 'old')
    expect(status).to eq(409)
  end

  it 'proposes what could be given up: not the newest, not one a month, not what was seen to start' do
    Docket.update_all(closed_at: Time.now)
    computer = image.computer
    template = image.attributes.except('id', 'taken_at', 'path')
    Image.where(computer:).update_all(gone_at: Time.now)
    made = Array.new(40) do |day|
      Image.create!(**template, path: "daily-#{day}", taken_at: Time.utc(2026, 11, 27) - (day * 86_400), computer:, uid: "daily-#{day}",
                                file_bytes: 1000)
    end
    TrialStart.create!(image: made[20], technician: Technician.first, outcome: 'reached', state: 'done', kind: 'image', bench: 'bench-1')
    call(:patch, "/computers/#{computer.id}", keep_newest: 7, keep_monthly: 2, keep_started: true)
    rows = call(:get, '/images?state=spare&count=250')['images'].map { |row| row['id'] }
    kept = [*0..6, 20, 27].map { |day| made[day].id } # the newest of October is 27 days old
    expect(rows).to match_array(made.map(&:id) - kept)
    expect(call(:get, "/images/#{made[8].id}")['spare']).to match(/not among the newest 7 of #{computer.name}, not the last of its month/)
    expect(call(:get, '/shelves').find { |one| one['name'] == 'Holm' }['made_of']['spare']).to eq('count' => 31, 'bytes' => 31_000)
    expect(call(:post, '/images-give-up', ids: rows, because: 'by rule')).to eq('given_up' => 31, 'bytes' => 31_000)
    expect(call(:get, '/images')['states']).not_to include('spare')
    Docket.first.update!(closed_at: nil, computer:)
    expect(KeepRule.new.spare).to be_empty
  end

  it 'tells what the room on a shelf is made of' do
    told = call(:get, '/shelves').find { |one| one['name'] == 'Holm' }
    expect(told['made_of']['images']).to eq(holm.images.there.sum(:file_bytes)).and be_positive
    here = Dir[File.join(holm.path, image.path, '*')].sum { |path| File.size(path) }
    expect(image.reload.file_bytes).to eq(here)
  end

  it 'keeps a note and a computer that somebody has said, whatever the next look finds' do
    another = Computer.where.not(id: image.computer_id).first
    changed = call(:patch, "/images/#{image.id}", note: 'After the new engine sensor', computer_id: another.id)
    expect(changed).to include('note' => 'After the new engine sensor', 'computer_id' => another.id)
    expect(call(:get, '/images?q=engine+sensor')['total']).to eq(1)
    image.reload.learn(image.document)
    expect(image.reload.computer).to eq(another)
    expect(call(:patch, "/images/#{image.id}", note: '')['note']).to eq(image.document.note)
  end

  it 'prints a label for a shelf on a drive, and for no other' do
    get("/api/shelves/#{holm.id}/label.pdf")
    expect([status, last_response.body[0, 5]]).to eq([200, '%PDF-'])
    call(:get, "/shelves/#{other.id}/label.pdf")
    expect(status).to eq(409)
  end
end
