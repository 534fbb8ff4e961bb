# frozen_string_literal: true

require_relative 'browser_helper'

# A target that cannot be the wrong one, as technicians meet it.
RSpec.describe 'Choosing the disk to overwrite' do
  look_alike = 'TF48-2209-7Q1F'

  before do
    sign_in
    seal_up_to('image')
  end

  def open_target(of = docket)
    visit "/dockets/#{of.id}/target"
    expect(page).to have_css('.card')
  end

  def card(port) = find('.card', text: /port\s*#{port}\b/i)

  it 'refuses the look-alike, and explains whose label was read' do
    sign_in_by_page
    click_link 'Bench'
    find('.port-card[data-port="1"]').click
    click_button 'Protect…'
    expect(page).to be_axe_clean
    fill_in 'What is on it', with: 'Camera recordings'
    click_button 'Protect it'
    expect(page).to have_css('.port-card[data-port="1"]', text: 'Protected by I. Hauge')

    open_target
    card(1).click
    expect(page).to have_css('.fact', text: 'Protected by I. Hauge')
    expect(page).to have_no_field('label')
    card(3).click
    expect(page).to have_css('.fact', text: 'the serial of port 1 differs by 1 character')
    fill_in 'Why it may be overwritten', with: 'Old stock'
    fill_in 'label', with: '7q1f'
    send_keys(:enter)
    expect(page).to have_css('[role=alert]', text: 'The label you read is the drive in port 1, which is refused: protected by I. Hauge')
    fill_in 'label', with: '7q4f'
    expect(page).to have_button('Seal port 3 as the target')
    send_keys(:enter)
    expect(page).to have_css('h2', text: 'Fit the image to the disk')
    send_keys('3')
    expect(page).to have_css('.alike .differs', text: '4')
    expect(page).to be_axe_clean
  end

  it 'does not begin the write where another drive was put into the port' do
    seal_up_to('layout')
    sign_in_by_page
    visit "/dockets/#{docket.id}/write"
    expect(page).to have_css('.orders li', minimum: 7)
    bench.pull('3')
    bench.pull('1')
    bench.plug(look_alike, '3')
    before = held(drive_path(look_alike))
    button = first('button', text: 'Hold to overwrite', minimum: 0, wait: 2)
    hold(button) if button && !button.disabled?
    expect(page).to have_text(/not attached/i)
    expect([docket.writes.count, held(drive_path(look_alike))]).to eq([0, before])
  end

  it 'is proved by unplugging the drive, unless another one moves' do
    sign_in_by_page
    open_target
    card(3).click
    fill_in 'Why it may be overwritten', with: 'Old stock'
    click_button 'Start the unplug check'
    expect(page).to have_text(/Pull the drive out of port 3 now/)
    expect(page).to be_axe_clean
    bench.pull('1')
    expect(page).to have_text('does not count: another drive moved, in port 1')
    bench.plug(look_alike, '1')
    click_button 'Start the unplug check'
    expect(page).to have_text(/Pull the drive out of port 3 now/)
    bench.pull('3')
    expect(page).to have_text('Port 3 went empty')
    bench.plug(Requests::REPLACEMENT, '3')
    expect(page).to have_text('came back in port 3: proved')
    click_button 'Seal port 3 as the target'
    expect(page).to have_css('h2', text: 'Fit the image to the disk')
    expect(docket.seal('target').decision['proof']).to eq('unplug')
  end

  it 'counts what is newer than the image and saves it first' do
    sign_in_by_page
    open_target
    card(1).click
    expect(page).to have_css('.lost', text: '4 files newer than the image', wait: 90)
    click_button 'Save them first…'
    expect(page).to have_css('[role=dialog] td', text: '/recordings')
    expect(page).to be_axe_clean
    click_button 'Save what is newer'
    expect(page).to have_css('.saved', text: '4 files saved and read back: Holm')
    archive = File.join(Shelf.find_by!(name: 'Holm').path, DriveTask.last.result['archive'])
    expect(run('tar', '--zstd', '-tf', archive).lines.grep(/\.rec$/).size).to eq(4)
  end

  it 'gives one drive to one of two technicians' do
    other = Docket.where.not(id: docket.id).first
    call(:post, "/dockets/#{other.id}/stations/computer/seal")
    call(:post, "/dockets/#{other.id}/stations/image/seal", image_id: image.id, reason: 'equal computers')
    sign_in_by_page
    open_target
    Capybara.using_session(:kaja) do
      sign_in_by_page('kaja')
      open_target(other)
      card(3).click
      fill_in 'Why it may be overwritten', with: 'Old stock'
    end
    card(3).click
    fill_in 'Why it may be overwritten', with: 'Old stock'
    fill_in 'label', with: '7q4f'
    send_keys(:enter)
    expect(page).to have_css('h2', text: 'Fit the image to the disk')
    Capybara.using_session(:kaja) do
      expect(page).to have_css('.card.refused', text: 'Locked by D-0001')
      expect(page).to have_button('Seal port 3 as the target', disabled: true)
    end
    expect(Drive.where(serial: Requests::REPLACEMENT).pluck(:docket_id)).to eq([docket.id])
  end

  it 'has room for one drive and for many' do
    %w[1 4].each { |port| bench.pull(port) }
    sign_in_by_page
    open_target
    expect(page).to have_text('2 disks attached')
    20.times { |at| plugged("MANY-00#{format('%02d', at)}-X#{at + 10}Z", (at + 7).to_s) }
    expect(page).to have_text('22 disks attached')
    expect(page.evaluate_script('document.documentElement.scrollHeight')).to be <= 800
    send_keys(*([:down] * 22))
    expect(page).to have_css('.card.on', text: /port\s*26/i)
    visit '/bench'
    expect(page).to have_css('.port-card', minimum: 26)
    expect(page.evaluate_script('document.documentElement.scrollHeight')).to be <= 800
  end

  it 'is handled on the Bench by keys, as by hand' do
    sign_in_by_page
    visit '/bench'
    find('.port-card[data-port="3"]').click
    send_keys('p')
    expect(page).to have_css('.port-card.bare[data-port="3"]')
    find('button.spare', text: '480.1 GB').click
    expect(page).to have_css('.port-card[data-port="3"]:not(.bare)')
    select 'bad spots in its first 2 GB', from: 'Let it fail'
    expect(page).to have_css('.fault', text: 'unreadable')
    click_button 'Mend it'
    select 'port 1, swapping with Tarn Flux SSD', from: 'Carry it to'
    expect(page).to have_css('.port-card[data-port="1"]', text: '7Q4F')
    click_button 'Try port 4 first'
    expect(page).to have_css('.computer', text: '1. port 4')
    click_button 'Turn on'
    expect(page).to have_button('Turn off')
    expect(page).to be_axe_clean
  end
end
