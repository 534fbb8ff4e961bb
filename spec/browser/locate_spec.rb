# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'Finding the right image' do
  def shelf = Shelf.first
  def docket = Docket.order(:id).first
  def image = Image.find_by!(path: '2-full')

  # The same disk, taken at another time.
  def another(name, taken_at)
    folder = File.join(shelf.path, name)
    FileUtils.cp_r(File.join(shelf.path, '2-full'), folder)
    manifest = JSON.parse(File.read(File.join(folder, 'manifest.json')))
    File.write(File.join(folder, 'manifest.json'), JSON.generate(manifest.merge('id' => SecureRandom.uuid, 'taken_at' => taken_at.iso8601)))
  end

  def choose_trouble(cause, known, since: nil, noticed: nil)
    visit "/dockets/#{docket.id}/computer"
    expect(page).to have_css('button', text: /Seal the computer|Break this seal/)
    if page.has_button?('Break this seal…', wait: 0)
      click_button 'Break this seal…'
      fill_in 'Why', with: 'more is known'
      click_button 'Break the seal'
      expect(page).to have_button('Seal the computer') # what is sealed cannot be chosen
    end
    find('label', text: cause).click
    select known, from: 'When it began'
    type_time(known.start_with?('Between') ? 'Surely well until' : 'In trouble since', since) if since
    type_time('Surely in trouble from', noticed) if noticed
    click_button 'Seal the computer'
    expect(page).to have_css('h2', text: 'Choose what to restore')
  end

  # As whoever is signed in likes it: the day first, 24 hours.
  def type_time(label, time) = find_field(label).set("#{time.strftime('%-d %b %Y %H:%M')}\t")

  def first_row = find('.station tbody tr', match: :first)

  it 'puts the right one first for three different troubles, and says why' do
    trouble = docket.trouble_since.getlocal
    another('after', trouble + 7200)
    LookThrough.new(shelf).run
    Image.update_all(state: 'whole', checked_at: Time.now)
    sign_in_by_page

    choose_trouble('Drive failed', 'At a moment that is known')
    expect(first_row).to have_text('after the trouble began').and have_text('Newest whole image')
    expect(page).to be_axe_clean
    choose_trouble('Infected', 'At a moment that is known')
    expect(first_row).to have_text('20 h before the trouble').and have_text('Last whole image before the trouble')
    expect(page).to have_css('tr.on', text: '20 h before the trouble')
    choose_trouble('System corrupt', 'Between two moments', since: trouble - (3 * 86_400), noticed: trouble)
    expect(first_row).to have_text('28 days before the trouble')
    expect(page).to have_css('tr', text: 'From the time in which the trouble began')
    send_keys(:down)
    expect(page).to have_css('tr.on', text: 'while it began')
    expect(page).to have_css('svg .image.on title', text: 'From the time in which', visible: :all)
  end

  it 'explains damage by the files that it hits, and leaves the rest to be looked at' do
    qcow2 = File.join(shelf.path, '2-full', 'disk.qcow2')
    noise = Random.new(0).bytes(Demo::OfficeFiles::MB).byteslice(300_000, 64)
    File.binwrite(qcow2, (noise.getbyte(0) ^ 1).chr, File.binread(qcow2).index(noise))
    sign_in_by_page
    click_link 'Images'
    find('tr', text: '2-full').click
    click_button 'Check it'
    expect(page).to have_css('aside .chip', text: 'Damaged', wait: 200)
    expect(page).to have_text('1 cluster differs, in System: 1 file')
    expect(page).to have_text('Start-up, Recovery are not touched')
    expect(page).to have_css('.mono', text: '/home/receipts/scan-0000.bin')
    expect(page).to be_axe_clean
    visit "/dockets/#{docket.id}/image"
    expect(page).to have_css('tr', text: 'Damaged: 1 cluster differs')
    expect(page).to have_css('tr.on', text: '31 days before')
  end

  it 'finds a file inside, looks at it and takes it out' do
    CheckJob.new(image.id).perform
    page.driver.browser.execute_cdp('Browser.setDownloadBehavior', behavior: 'allow', downloadPath: @folder)
    sign_in_by_page
    click_link 'Images'
    select 'in file names inside', from: 'Where to look'
    fill_in 'Name of a file inside images', with: 'timetable.txt'
    expect(page).to have_css('.group', text: '/home/timetable.txt')
    expect(page).to be_axe_clean
    click_link 'Look at it'
    expect(page).to have_css('pre', text: 'Timetable from')
    expect(page).to be_axe_clean
    check 'Take out timetable.txt'
    click_link 'Take out as .zip'
    taken = eventually { Dir[file('*.zip')].first }
    expect(run('unzip', '-p', taken)).to start_with('Timetable from')

    send_keys(:backspace)
    expect(page).to have_css('tr', text: 'home')
    fill_in 'Find by name in this part', with: "scan-0001\n"
    find('tr', text: '/home/receipts/scan-0001.bin').click
    expect(page).to have_css('pre.hex', text: '00000000')
    send_keys(:escape)
    expect(page).to have_css('h1', text: 'Images')
  end

  it 'adds a shelf, says what cannot be read, and lays two images beside each other' do
    share = Config.path('bench', 'shares', 'spec')
    FileUtils.mkdir_p(share)
    sign_in_by_page
    click_link 'Images'
    click_button 'Add a shelf…'
    fill_in 'Name', with: 'Share'
    fill_in 'Full path on this machine', with: '/nowhere'
    click_button 'Add it and look through it'
    expect(page).to have_css('[role=alert]', text: 'no folder that can be read')
    expect(page).to be_axe_clean
    fill_in 'Full path on this machine', with: share
    click_button 'Add it and look through it'
    expect(page).to have_css('.shelf', text: 'Share')
    expect(page).to have_css('.shelf', text: 'Looked through', minimum: 2, wait: 200)

    find('tr', text: '2-full').click
    find('aside select').all('option').last.select_option
    expect(page).to have_css('h1', text: 'What changed between two images of TKT-03')
    find('tr', text: '/home', match: :first).click
    expect(page).to have_css('.file', minimum: 1)
    expect(page).to be_axe_clean
  end
end
