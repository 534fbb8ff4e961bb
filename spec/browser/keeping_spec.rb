# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'Keeping images, by page' do
  before do
    sign_in_by_page
    path = Config.path('tries', 'second').tap { |folder| FileUtils.mkdir_p(folder) }
    Shelf.create!(name: 'Second', kind: 'folder', path:).tap { |shelf| LookThrough.new(shelf).run }
    LookThrough.new(Shelf.find_by!(name: 'Holm')).run
    Image.update_all(state: 'whole', checked_at: Time.now)
  end

  it 'moves one to another shelf, with a note, and gives it up into the bin and back' do
    visit '/images'
    click_button 'Note, computer…'
    fill_in 'Note', with: 'For the season'
    click_button 'Keep it'
    expect(page).to have_css('aside', text: '“For the season”')
    click_button 'Copy or move…'
    choose 'Second'
    choose 'Move it: its files here are removed when they have arrived'
    expect(page).to be_axe_clean
    find('[role=dialog] .btn.go').click
    expect(page).to have_css('tr', text: 'Second', wait: 60)
    expect(page).to have_css('aside .chip', text: 'Whole')
    moved = Image.find_by!(own_note: 'For the season')
    expect(run('qemu-img', 'check', File.join(moved.shelf.path, moved.path, 'disk.qcow2'))).to include('No errors')

    click_button 'Give it up…'
    fill_in 'Why', with: 'Taken by mistake'
    find('[role=dialog] .btn.hot').click
    click_button 'Given up 1'
    expect(page).to have_css('aside', text: 'In the bin until')
    click_button 'Remove its files now…'
    expect(page).to have_button('Remove them for good')
    click_button 'Take it back'
    expect(page).to have_text('No image fits')
    click_button 'Show all'
    expect(page).to have_button('Give it up…')
    expect(page).to be_axe_clean
  end

  it 'gives up what is kept no longer by the rule of its computer, all at once' do
    Docket.update_all(closed_at: Time.now)
    visit '/computers'
    Computer.find_by!(name: 'TKT-03').update!(keep_newest: 1, keep_monthly: 0)
    visit '/images'
    click_button 'Could go 1'
    expect(page).to have_css('.spare', text: /would be free/)
    click_button 'Give all of them up…'
    click_button 'Give them up'
    expect(page).to have_button('Given up 1')
    expect(Image.given_up.sole.taken_at).to be < Image.there.maximum(:taken_at)
  end
end

RSpec.describe 'A passphrase, by page' do
  let(:source) { AttachedDrives.list.find { |one| AttachedDrives.contents(one).parts.size > 2 } }
  let(:words) { 'three gulls on the pier' }

  # As the web server does for its workers.
  around do |example|
    serving = Passphrases.serve
    example.run
  ensure
    serving.kill
    Passphrases.instance_variable_set(:@serving, nil)
  end

  before { sign_in_by_page }

  it 'is given when an image is taken, and asked for again where it is restored from' do
    visit "/drives/#{Drive.find_by!(identity_key: source.key).id}/take"
    expect(page).to have_css('.how .figure', minimum: 3, wait: 60)
    fill_in 'Passphrase, if it leaves the house', with: words
    fill_in 'The same again', with: words
    click_button 'Take the image'
    expect(page).to have_css('h1', text: 'Taken and checked: whole', wait: 120)
    image = Taking.last.image
    expect(image).to have_attributes(locked: true, state: 'whole')
    click_link 'See it among the images'
    click_button 'Lock it again'
    expect(page).to have_css('aside .chip', text: 'Locked')

    visit "/dockets/#{docket.id}"
    expect(page).to have_css('[data-main]:not([disabled])')
    send_keys(:enter)
    expect(page).to have_css('h2', text: 'Choose what to restore')
    find('tr', text: 'Locked').click
    expect(page).to have_button('Seal this image', disabled: true)
    fill_in 'Passphrase', with: 'two gulls'
    click_button 'Open it'
    expect(page).to have_css('[role=alert]', text: /passphrase/)
    fill_in 'Passphrase', with: words
    click_button 'Open it'
    click_button 'Seal this image'
    expect(page).to have_css('h2', text: 'Choose the disk to overwrite')
  end
end
