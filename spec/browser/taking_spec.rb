# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'Taking an image' do
  let(:holm) { Shelf.find_by!(name: 'Holm') }
  let(:source) { AttachedDrives.list.find { |one| AttachedDrives.contents(one).parts.size > 2 } }

  before { sign_in_by_page }

  def card(attached) = find('.port-card', text: attached.serial[-4..])

  it 'is asked for on one sheet, by keys, runs, is paused, goes on, and ends as a whole image' do
    slow(source.serial, bytes_per_second: 30_000_000)
    visit '/bench'
    card(source).click
    find('h1').click
    send_keys('i')
    expect(page).to have_css('h1', text: 'Take an image')
    expect(page).to have_css('.how .figure', minimum: 3, wait: 60)
    find('.rows label', text: 'Recovery').find('input').click
    expect(page).to have_css('.said', text: /^Start-up and System of .*onto Holm, balanced, checked afterwards: .* to .*MB/)
    find('.rows label', text: 'Start-up').find('input').click
    expect(page).to have_css('.fact', text: 'It cannot start by itself')
    find('.rows label', text: 'Start-up').find('input').click
    expect(page).to be_axe_clean
    fill_in 'Note', with: 'Before the season'
    find('h1').click
    send_keys(:enter)

    expect(page).to have_css('h1', text: 'Taking the image', wait: 30)
    expect(page).to have_css('.figures', text: /[1-9]\d* %/, wait: 30)
    expect(page).to be_axe_clean
    click_button 'Pause'
    expect(page).to have_css('h1', text: 'Paused', wait: 30)
    page.refresh
    expect(page).to have_text('it goes on from there')
    click_button 'Go on'
    expect(page).to have_css('h1', text: 'Taken and checked: whole', wait: 120)
    expect(page).to have_css('.fact', text: 'Without Recovery')

    click_link 'See it among the images'
    expect(page).to have_text('Before the season')
    taken = Taking.last
    expect(run('qemu-img', 'check', File.join(holm.path, taken.folder, 'disk.qcow2'))).to include('No errors')
    expect(taken.image.document.not_taken.map { |part| part['name'] }).to eq(['Recovery'])
  end

  it 'is stopped by decision only, says what became of it, and waits for a drive that is pulled' do
    slow(source.serial, bytes_per_second: 20_000_000)
    visit "/drives/#{Drive.find_by!(identity_key: source.key).id}/take"
    expect(page).to have_css('.how .figure', minimum: 3, wait: 60)
    click_button 'Take the image'
    expect(page).to have_css('.figures', text: /[1-9]\d* %/, wait: 30)
    bench.pull(source.port)
    expect(page).to have_css('h1', text: 'It has stopped', wait: 30)
    expect(page).to have_css('.fact', text: 'It waits for the drive')
    bench.plug(source.handle, source.port)
    expect(page).to have_css('h1', text: 'Taking the image', wait: 30)
    click_button 'Stop…'
    click_button 'Let it be'
    click_button 'Stop…'
    click_button 'Stop, and keep nothing'
    expect(page).to have_css('h1', text: 'Stopped, nothing of it is kept', wait: 30)
    expect(Dir["#{Taking.last.path}*"]).to be_empty
    expect(page).to have_link('Take another one')
    click_link 'Bench'
    click_link 'Images that are taken'
    expect(page).to have_css('tbody tr', count: 1, text: 'Stopped, nothing of it is kept')
    expect(page).to be_axe_clean
  end
end

RSpec.describe 'A drive that fails' do
  let(:source) { AttachedDrives.list.find { |one| AttachedDrives.contents(one).parts.size > 2 } }

  # On the contents of the largest file of the system.
  def place
    disk = source.open
    part = Evrel::Image::UsedMap.new(disk).parts.max_by(&:used_bytes)
    file = part.volume.each_entry('/').select(&:file?).max_by(&:size)
    [part.start + part.volume.content_extents(file).max_by(&:last).first + 65_536, file.path]
  ensure
    disk&.close
  end

  it 'is salvaged in two runs, with its map and the files that are hit, and says what is missing' do
    offset, path = place
    bench.change_drive(source.handle) { |about| about['faults'] = { 'unreadable' => [[offset, 1024]], 'bytes_per_second' => 25_000_000 } }
    sign_in_by_page
    visit "/drives/#{Drive.find_by!(identity_key: source.key).id}/take"
    expect(page).to have_css('.how .figure', minimum: 3, wait: 60)
    check 'The drive fails: read it in passes, what matters first, bad regions last. It can go on for days.'
    click_button 'Take the image'
    expect(page).to have_css('.figures', text: 'What is used, in large steps', wait: 30)
    click_button 'Pause'
    expect(page).to have_css('h1', text: 'Paused', wait: 30)
    expect(page).to have_css('dt', text: 'Not read')
    expect(page).to be_axe_clean
    click_button 'Go on'
    expect(page).to have_css('h1', text: 'Taken, but for 2 sectors', wait: 120)
    expect(page).to have_css('dd', text: path)
    expect(page).to have_css('svg[aria-label="Where it has not been read"] .bad')
    expect(Taking.last.image.reload.document.unread).to eq([[offset, 1024]])
  end
end
