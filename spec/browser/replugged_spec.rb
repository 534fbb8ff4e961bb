# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'A write whose drive is pulled' do
  serial = Requests::REPLACEMENT

  it 'goes on by itself in its port, elsewhere when somebody says so, and ends verified' do
    sign_in
    seal_as_in_image
    slow
    sign_in_by_page
    visit "/dockets/#{docket.id}/write"
    expect(page).to have_text('Read the orders once more')
    choose 'stays as it is'
    expect(page).to have_text('unused room stays as it is')
    choose 'is discarded'
    expect(page).to have_text('all the rest is discarded')
    hold(find('button', text: 'Hold to overwrite'))
    expect(page).to have_css('.orders li.now', text: 'Write System')
    # In the same port it goes on by itself.
    Benches[Config.bench].pull('3')
    expect(page).to have_css('section[aria-label=Trouble]', text: 'The target: the drive does not answer any more')
    Benches[Config.bench].plug(serial, '3')
    expect(page).to have_no_css('section[aria-label=Trouble]', wait: 30)
    expect(page).to have_css('.orders li.now', text: 'Write System')
    Benches[Config.bench].pull('3')
    within('section[aria-label=Trouble]') do
      expect(page).to have_text('The target: the drive does not answer any more')
      click_button 'Go on when it is back'
    end
    expect(page).to have_css('[role=alert]', text: 'The sealed drive is not attached')
    Benches[Config.bench].plug(serial, '5')
    expect(page).to have_text('It is in port 5 now')
    expect(page).to be_axe_clean
    click_button 'Go on when it is back'
    expect(page).to have_css('h2', text: 'Writing to port 5')
    expect(page).to have_text('read back from the disk itself', wait: 200)
    expect(docket.write).to have_attributes(state: 'done', verified: true, port: '5')
    expect(run('sgdisk', '-v', drive_path(serial))).to include('No problems found')
  end

  def docket = Docket.find_by!(cause: 'drive_failed')

  it 'pauses by the keyboard and goes on by a held key' do
    sign_in
    seal_as_in_image
    slow
    sign_in_by_page
    visit "/dockets/#{docket.id}/write"
    expect(page).to have_css('[data-hold]:not([disabled])')
    hold_enter(1.4)
    expect(page).to have_css('.orders li.now', text: 'Write')
    find('button', text: 'Pause').send_keys(:enter)
    expect(page).to have_css('h2', text: 'Paused')
    expect(page).to have_text('without a table until it goes on')
    expect(page).to be_axe_clean
    find('.orders').click # wherever the focus is, but on a button
    hold_enter(1.4)
    expect(page).to have_css('.orders li.now', text: 'Write')
    expect(page).to have_text('read back from the disk itself', wait: 200)
  end
end
