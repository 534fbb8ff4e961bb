# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'A restored disk that would not start' do
  def docket = Docket.find_by!(cause: 'drive_failed')
  def path = drive_path(Requests::REPLACEMENT)

  # Written, read back, and its loader in the wrong place: as after a hand's slip.
  def written_with_a_lost_loader
    sign_in
    seal_as_in_image
    call(:post, "/dockets/#{docket.id}/write")
    eventually(200) { docket.write.state == 'done' }
    esp = Evrel::Disk::File.open(path) { |disk| Evrel::Table.read(disk).partitions.first }
    run('mmd', '-i', "#{path}@@#{esp.start}", '::EFI/QUAY')
    run('mmove', '-i', "#{path}@@#{esp.start}", '::EFI/BOOT/BOOTX64.EFI', '::EFI/QUAY/loader.efi')
  end

  it 'is explained, mended, proved with a command, and signed off; the twin left in is caught' do
    written_with_a_lost_loader
    sign_in_by_page
    visit "/dockets/#{docket.id}/start"
    click_button 'Read the chain again'
    chain = 'ol[aria-label="Steps of the start"]'
    expect(page).to have_css("#{chain} li.no", text: 'EFI/BOOT/BOOTX64.EFI is missing')
    expect(page).to be_axe_clean
    within("#{chain} li.no", text: 'BOOTX64.EFI') { click_button 'Mend it…' }
    within('[role=dialog]') do
      expect(page).to have_text(%r{a copy of /EFI/QUAY/loader.efi}i)
      click_button 'Mend it'
    end
    expect(page).to have_css("#{chain} li.ok", text: 'Runs EFI/BOOT/BOOTX64.EFI')
    expect(page).to have_css('[aria-label=Mends] li', text: 'Put a loader in the fallback place')

    # The old drive is in port 4 still, and comes first.
    expect(page).to have_css("#{chain} li.no", text: 'It would start the old drive instead')
    click_button 'Turn it on'
    expect(page).to have_css('[aria-label=Milestones] li.passed', text: 'kernel', wait: 200)
    expect(page).to have_text(/from port 4/, wait: 200)
    expect(page).to have_css('.chip.no', text: 'Not seen to start')
    expect(page).to have_button('Sign off: TKT-03 starts', disabled: true)
    click_button 'take out the old drive (4)'
    expect(page).to have_no_css("#{chain} li.no")

    click_button 'Ask it something'
    within('[role=dialog]') do
      fill_in 'Command', with: 'cat /etc/hostname'
      fill_in 'Text that must come', with: 'TKT-03'
      click_button 'Keep it'
    end
    click_button 'Start it again'
    expect(page).to have_css('.outcome .chip', text: /Starting|Waiting/)
    expect(page).to have_no_css('.outcome .chip', text: 'Not seen to start', wait: 0)
    expect(page).to have_text('“cat /etc/hostname” gave “TKT-03”', wait: 200)
    expect(page).to be_axe_clean
    check 'Check the clock'
    expect(page).to have_css('.checklist li.done', text: 'Check the clock')
    click_button 'Sign off: TKT-03 starts'
    expect(page).to have_css('.chip', text: /Signed off/)
    expect(page).to have_text(/seen to start\s+in the emulator/)
    expect(page).to have_no_button('Sign off: TKT-03 starts')
    expect(docket.reload.closed_at).not_to be_nil
  end
end
