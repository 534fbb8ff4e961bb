# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'An Evrel without the demo' do
  gib = 1024**3

  # Nothing and nobody; a bench with two drives, one of which holds a system.
  def empty
    DemoState.without_keys { (DemoState::TABLES - %w[events]).each { |table| DemoState.sql("DELETE FROM #{table}") } }
    FileUtils.rm_rf(Config.path('bench'))
    FileUtils.mkdir_p(Config.path('bench'))
  end

  define_method(:drives) do
    old = plugged('VN03-1111-4A4A', '1', 'capacity' => 3 * gib)
    run('cp', '--sparse=always', StartingDisks.master, old)
    plugged('VN05-2222-9B7C', '2', 'capacity' => 5 * gib)
    old
  end

  def lead
    code = FirstLead.code
    visit '/'
    fill_in 'Code', with: code
    fill_in 'Your name', with: 'Tove Lind'
    fill_in 'Sign-in', with: 'tove'
    fill_in 'New password', with: 'nine lamps over water'
    click_button 'Begin'
    expect(page).to have_css('ol[aria-label="First steps"]')
    expect(page).to be_axe_clean
  end

  def register
    click_link 'Bench'
    find('.port-card[data-port="1"]').click
    click_button 'Say whose…'
    expect(page).to have_field('Name', with: 'TKT-09').and have_select('Starts by', selected: 'UEFI')
    expect(page).to have_css('dd', text: 'the name of the system on the drive')
    click_button 'Register it'
    expect(page).to have_no_button('Say whose…')
  end

  def shelf(folder)
    click_link 'Dockets'
    expect(page).to have_css('.steps li.done', text: 'Register a computer')
    within('.steps') { click_button 'Add one…' }
    fill_in 'Name', with: 'Attic'
    fill_in 'Full path on this machine', with: folder
    click_button 'Add it and look through it'
    expect(page).to have_css('tr', text: 'TKT-09')
  end

  def restore
    click_link 'Dockets'
    within('.steps') { click_button 'Open a docket…' }
    find_field('Computer').send_keys('tkt', :enter)
    click_button 'Open the docket'
    click_button 'Seal the computer'
    click_button 'Check it'
    expect(page).to have_css('tr.on .chip', text: 'Whole')
    click_button 'Seal this image'
    find('.card', text: 'VN05').click
    fill_in 'label', with: '9b7c'
    expect(page).to have_button('Seal port 2 as the target')
    send_keys(:enter)
    expect(page).to have_css('h2', text: 'Fit the image to the disk').and have_css('[data-main]:not([disabled])')
    send_keys(:enter)
    hold(find('button', text: /Hold to/))
    expect(page).to have_text('read back from the disk itself', wait: 200)
  end

  it 'becomes one with a lead, a computer, a shelf, a docket, and a restore that was signed off' do
    empty
    image = captured(drives, 'shelf/2031-03-02')
    lead
    register
    shelf(File.dirname(image))
    restore
    click_link 'Prove that it starts'
    click_button 'Try starting it'
    expect(page).to have_css('.chip', text: 'Seen to start', wait: 200)
    click_button 'Sign off: TKT-09 starts'
    expect(page).to have_css('.head .chip', text: 'Signed off')
    expect(Docket.first).to have_attributes(closed_at: be_present, opened_by: Technician.find_by!(sign_in: 'tove'))
  end
end
