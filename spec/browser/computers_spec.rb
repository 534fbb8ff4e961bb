# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'Computers' do
  # Chosen as somebody would, from a file.
  def table_from(name, &)
    File.open(file(name), 'w', &)
    attach_file(file(name)) { find('.drop').click }
  end

  it 'are taken in by the thousand, registered by hand and by what they say, and found by the keyboard' do
    sign_in_by_page
    click_link 'Computers'
    click_button 'From a table…'
    table_from('huge.csv') { |io| io.truncate(1024**3) }
    expect(page).to have_css('[role=alert]', text: 'huge.csv is too large: a table has at most 2 MiB')
    table_from('rows.csv') { |io| 5000.times { |number| io.puts(number.zero? ? 'name;place' : format('ROW-%04d;Desk', number)) } }
    expect(page).to have_text('4,999 new', wait: 60).and have_css('[role=dialog] td', text: 'ROW-0042')
    expect(page).to be_axe_clean
    click_button 'Take over 4,999'
    expect(page).to have_text('Taken over.', wait: 90)
    click_button 'Done'
    expect(page).to have_text('5,0').and have_css('tbody tr', minimum: 50)
    expect(page).to be_axe_clean
    click_button 'Register one…'
    fill_in 'Name', with: 'TKT-O3'
    expect(page).to have_css('.alike', text: 'TKT-03 Holm quay ticket office: a name one letter away.')
    fill_in 'Name', with: 'GATE-07'
    expect(page).to have_no_css('.alike')
    fill_in 'What it says of itself',
            with: "System Information\n\tManufacturer: Brisk\n\tProduct Name: Desk 5\n\nBootOrder: 0001\nBoot0001* quay\n"
    click_button 'Read it'
    expect(page).to have_field('Maker', with: 'Brisk').and have_select('Starts by', selected: 'UEFI')
    expect(page).to have_css('dl', text: 'Desk 5 dmidecode').and be_axe_clean
    click_button 'Register it'
    expect(page).to have_css('h1', text: 'GATE-07').and have_text('GATE-07 registered')
    expect(Computer.find_by!(name: 'GATE-07')).to have_attributes(maker: 'Brisk', firmware: 'uefi', boot_order: ['quay'])

    click_link 'Dockets'
    click_button 'Open a docket…'
    find_field('Computer').send_keys('row-4711', :enter)
    expect(page).to have_css('.chosen', text: 'ROW-4711')
    click_button 'Open the docket'
    expect(page).to have_css('h2', text: 'Take the computer in').and have_link('not known: choose it…')
  end

  it 'are registered while a docket is opened, changed, and made one of two' do
    sign_in_by_page('kaja')
    click_button 'Open a docket…'
    click_button 'It is not known here: register it…'
    fill_in 'Name', with: 'TKT-3'
    click_button 'Register it'
    expect(page).to have_css('.chosen', text: 'TKT-3')
    click_button 'Open the docket'
    click_link 'not known: choose it…'
    click_button 'Change…'
    select 'BIOS', from: 'Starts by'
    fill_in 'How one gets into its boot menu', with: 'Hold the lower left key'
    click_button 'Keep it'
    expect(page).to have_text('firmware not known → bios').and have_css('dd', text: 'Hold the lower left key')
    click_button 'It is the same as…'
    find_field('The one that stays').send_keys('TKT-03', :enter)
    click_button 'Make one of the two'
    expect(page).to have_css('h1', text: 'TKT-03')
    expect(Computer.exists?(name: 'TKT-3')).to be(false)
    expect(Computer.find_by!(name: 'TKT-03').dockets.count).to eq(2)
  end

  it 'are found for an image that says nothing of its own' do
    image.update!(computer: nil, host: nil, system_identity: nil)
    sign_in_by_page('kaja')
    visit "/images?show=#{image.id}"
    click_button 'Say whose…'
    expect(page).to have_field('Name', with: 'TKT-03')
    click_button 'It is this one'
    expect(page).to have_no_button('Say whose…').and have_no_css('[role=dialog]')
    expect(image.reload.computer.name).to eq('TKT-03')
  end
end
