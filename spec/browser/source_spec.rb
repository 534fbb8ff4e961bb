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
end
