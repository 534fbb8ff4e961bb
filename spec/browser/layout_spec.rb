# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'The Layout station' do
  serial = 'TF48-2209-7Q4F'

  before do
    sign_in
    seal_up_to('target')
    sign_in_by_page
    visit "/dockets/#{docket.id}/layout"
    expect(page).to have_css('h3', text: 'After the restore')
  end

  def drag(element, by) = page.driver.browser.action.click_and_hold(element.native).move_by(0, by).release.perform

  def with_control(key, *more)
    page.driver.browser.action.key_down(:control).tap { |action| more.each { |one| action.key_down(one) } }
        .send_keys(key).tap { |action| more.each { |one| action.key_up(one) } }.key_up(:control).perform
  end

  def size = find_field('Size').value
  def typed(field, text) = find_field(field).set(text).then { find_field(field).send_keys(:enter) }

  it 'is dragged, typed, taken back, sealed and written; the disk is judged by other tools' do
    expect(page).to have_text('Proposed: 240.0 GB more than the image needs: System takes it')
    expect(page).to have_field('Size', with: '478.5 GB')
    drag(find('[aria-label="Lower edge of System"]'), -60)
    expect(page).to have_css('[role=radio].on', text: 'By hand')
    expect(page).to have_css('.fact', text: 'stay unallocated')
    expect(size.to_f).to be_between(250, 470)

    typed('Size', '300GB')
    expect(page).to have_field('Size', with: '300.0 GB')
    expect(page).to have_field('Free after it', with: '178.5 GB')
    typed('Free after it', '100 GB')
    expect(page).to have_field('Size', with: '378.5 GB')

    # A bad move springs back with its reason.
    typed('Size', '1 MB')
    expect(page).to have_css('[role=alert]', text: /System cannot be 1 MB. It needs/)
    expect(page).to have_field('Size', with: '378.5 GB')
    find_field('Size').set('twelve')
    expect(page).to have_text('“twelve” is no size')
    find_field('Size').send_keys(:escape)
    expect(page).to be_axe_clean

    find('h2').click
    with_control('z')
    expect(page).to have_field('Size', with: '300.0 GB')
    with_control('z', :shift)
    expect(page).to have_field('Size', with: '378.5 GB')
    find('[aria-label="Lower edge of System"]').send_keys(:arrow_up)
    expect(page).to have_field('Size', with: '374.2 GB')
    # Taken back after the page was loaded anew, too.
    visit current_path
    expect(page).to have_css('[role=radio].on', text: 'By hand')
    click_button 'Undo'
    expect(page).to have_field('Size', with: '378.5 GB')

    click_button 'Seal the layout'
    expect(page).to have_css('h2', text: 'Read the orders once more')
    expect(page).to have_css('.orders li', text: 'Grow System to 378.5 GB')
    hold(find('button', text: 'Hold to overwrite'))
    expect(page).to have_text('read back from the disk itself', wait: 200)
    system = docket.write && DocketLayout.new(docket).plan.place_of(2)
    expect(run('sgdisk', '-v', drive_path(serial))).to include('No problems found')
    expect(run('e2fsck', '-f', '-n', "#{drive_path(serial)}?offset=#{system.start}")).to include('System')
    blocks = run('dumpe2fs', '-h', "#{drive_path(serial)}?offset=#{system.start}")[/Block count:\s+(\d+)/, 1].to_i
    expect(blocks * 4096).to be_within(4096).of(system.size)
  end

  it 'leaves parts out, gives new identities, keeps a layout and reads a script, by its dialog' do
    find('button[aria-label^="Recovery"]').click
    expect(page).to have_css('.who', text: 'Recovery')
    click_button 'Leave it out'
    expect(page).to have_text('Recovery is left out of this layout')
    expect(page).to have_css('.fact', text: 'Recovery is left out')
    click_button 'Bring it back'
    expect(page).to have_css('.who', text: 'Recovery')

    find('h2').click
    send_keys('m')
    expect(page).to have_css('[role=dialog]', text: 'More about this layout')
    choose 'New'
    expect(page).to have_text('names')
    expect(page).to be_axe_clean
    fill_in 'Name of the layout', with: 'Ticket desks'
    click_button 'Keep this layout'
    expect(page).to have_css('.kept li', text: 'Ticket desks')
    script = file('layout.sfdisk')
    File.write(script, "label: gpt\nstart=2048, size=512MiB\nsize=100GiB\nstart=300GiB, size=1GiB\n")
    find('input[type=file]', visible: :all).attach_file(script)
    expect(page).to have_css('[role=radio].on', text: 'By hand')
    find('button[aria-label^="System"]').click # of the chosen part all is said, whatever room there is
    expect(page).to have_css('.names, ul', text: '107.4 GB')
    with_control('z')
    expect(page).to have_no_css('ul', text: '107.4 GB')
  end

  it 'tries the plan on a throw-away disk, and could start it' do
    click_button 'Try the plan…'
    click_button 'Try it'
    expect(page).to have_css('[role=dialog]', text: 'All 5 judges are content', wait: 200)
    expect(page).to be_axe_clean
    expect(page).to have_button('Start it in the emulator')
  end
end
