# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'A drive that is restored from as it is' do
  let!(:source) { AttachedDrives.list.find { |one| AttachedDrives.contents(one).systems.any? } }

  it 'is chosen under the images, moved to a larger one, and never offered as a target' do
    sign_in_by_page
    visit "/dockets/#{docket.id}"
    expect(page).to have_css('[data-main]:not([disabled])')
    send_keys(:enter)
    expect(page).to have_css('tr', text: 'Attached drives, as they are now')
    choose "Drive in port #{source.port}", allow_label_click: true
    expect(page).to have_css('.fact', text: 'A drive as it is now')
    expect(page).to be_axe_clean
    fill_in 'Why it is the right one', with: 'The newest there is' if page.has_text?('Going on needs a reason', wait: 2)
    click_button "Seal the drive in port #{source.port} as the source"

    expect(page).to have_css('h2', text: 'Choose the disk to overwrite')
    expect(page).to have_text("Restored from the drive in port #{source.port}")
    find('.card', text: 'It is what you restore from').click
    expect(page).to have_css('.fact', text: 'It is what you restore from')
    find('.card', text: 'old-stock').click
    fill_in 'Why it may be overwritten', with: 'Old stock, no longer needed'
    fill_in 'label', with: '7q4f'
    expect(page).to have_button('Seal port 3 as the target')
    send_keys(:enter)
    expect(page).to have_css('h2', text: 'Fit the image to the disk')
    expect(page).to have_css('[data-main]:not([disabled])', wait: 60)
    send_keys(:enter)
    expect(page).to have_css('h2', text: 'Read the orders once more')
    hold(find('button', text: 'Hold to overwrite'))
    expect(page).to have_text('read back from the disk itself', wait: 200)
    expect(docket.writes.sole).to have_attributes(state: 'done', verified: true)
  end

  it 'is moved while a spot of it cannot be read, starts from the new one, and is found as its twin' do
    system = AttachedDrives.contents(source).parts.find { |part| part['role'] == 'system' }
    spot = Evrel::Disk::File.open(source.local_path) do |disk|
      volume = Evrel::Volume.recognise(Evrel::Disk::Window.new(disk, system['start_bytes'], system['size_bytes']))
      system['start_bytes'] + volume.content_extents(volume.entry('/home/timetable.txt')).first.first
    end
    bench.change_drive(source.handle) { |about| about['faults'] = { 'unreadable' => [[spot, 512]] } }
    sign_in
    seal('computer')
    seal('image', drive_id: Drive.find_by!(identity_key: source.key).id, reason: 'the newest there is')
    seal('target', drive_id: drive(Requests::REPLACEMENT).id, label: '7Q4F', reason: 'old stock, no longer needed')
    call(:post, "/dockets/#{docket.id}/layout/plan", wish: { way: 'as_in_image' })
    seal('layout')
    sign_in_by_page
    visit "/dockets/#{docket.id}/write"
    check 'is read a second time'
    expect(page).to have_text('the source is read a second time too')
    hold(find('button', text: 'Hold to overwrite'))
    within('section[aria-label=Trouble]', wait: 60) do
      expect(page).to have_text('The drive that is read').and have_text('/home/timetable.txt')
      expect(page).to be_axe_clean.within('section[aria-label=Trouble]')
      click_button 'Leave zeros for the sectors that cannot be read'
    end
    expect(page).to have_text('read back from the disk itself', wait: 200)
    expect(page).to have_css('.fact', text: 'Zeros stand in some places')
    expect(page).to have_css('.fact', text: 'The drive that was read is failing')
    expect(docket.writes.sole).to have_attributes(state: 'done', verified: true, summary: include('late' => be_positive))
    ours, theirs = [source.local_path, drive_path(Requests::REPLACEMENT)].map { |path| File.binread(path, 65_536, spot / 65_536 * 65_536) }
    ours[spot % 65_536, 512] = "\0" * 512
    expect(ours == theirs).to be(true)

    visit "/dockets/#{docket.id}/start"
    expect(page).to have_text("The old drive in port #{source.port} has the same identity", wait: 60)
    click_button 'Try starting it'
    expect(page).to have_css('.fact', text: 'Seen to start', wait: 120)
    expect(docket.trial_starts.sole).to have_attributes(outcome: 'reached')
  end
end
