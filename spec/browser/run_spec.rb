# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'One image onto a row of cards' do
  let(:serials) { Array.new(8) { |number| "LC08-2210-7A#{number}C" } }

  # One is too small, one is taken out in the middle, one says that it has more than it has.
  before do
    8.times { |number| Computer.create!(name: "KSK-0#{number + 2}", place: 'Quay', model: 'Brisk Desk 5', firmware: 'uefi') }
    serials.each_with_index do |serial, number|
      plugged(serial, (21 + number).to_s, 'maker' => 'Lume', 'model' => 'Card', 'bus' => 'card reader',
                                          'capacity' => number == 7 ? 512_000_000 : image.document.size)
    end
    bench.change_drive(serials[4]) { |about| about['faults'] = { 'disconnects_after' => 40_000_000 } }
    bench.change_drive(serials[5]) { |about| about['faults'] = { 'true_capacity' => 60_000_000 } }
  end

  it 'is proved by labels and as blank, written at once, and says who needs somebody' do
    sign_in_by_page
    visit "/images/#{image.id}/run"
    expect(page).to have_button('Begin the run', disabled: true)
    find('button', text: /of the image’s model/).click
    uncheck 'TKT-03', allow_label_click: true
    fill_in 'Why this image is right for all of them', with: 'All stand at a quay'
    expect(page).to have_text('8 dockets with computer and image sealed')
    expect(page).to be_axe_clean
    click_button 'Begin the run'

    expect(page).to have_css('h1', text: /R-\d+, 8 drives/)
    expect(page).to have_text('8 without a drive')
    expect(page).to have_css('.drives li', text: 'Port 28') # the worker has noted them
    fill_in 'The last four characters of a label', with: '7a3c'
    expect(page).to have_css('li.ready', text: '…7A3C')
    fill_in 'The last four characters of a label', with: '7a7c'
    expect(page).to have_css('.message', text: 'is refused')
    find('button', text: /6 blank Lume Card/).click
    expect(page).to have_text('7 ready to be written, 1 without a drive')
    expect(page).to be_axe_clean

    hold(find('button', text: 'Hold to overwrite 7 drives'))
    expect(page).to have_text('5 verified', wait: 200)
    expect(page).to have_css('.troubles li', count: 2)
    pulled = Run.last.dockets.find { |one| one.target&.serial == serials[4] }
    false_one = Run.last.dockets.find { |one| one.target&.serial == serials[5] }
    expect(page).to have_css('.troubles li', text: pulled.computer.name)
    expect(page).to have_css('.troubles li', text: false_one.computer.name)
    expect(page).to be_axe_clean
    expect([pulled, false_one].map { |one| one.write.reload.verified }).to all(be_falsy)

    # Plugged in again, it goes on alone.
    bench.plug(serials[4], '25')
    expect(page).to have_text('6 verified', wait: 120)
    expect(page).to have_css('.troubles li', count: 1, text: false_one.computer.name)
    # Each gets its name when it is verified.
    verified = Run.last.dockets.select { |one| one.write&.reload&.verified }
    eventually do
      verified.all? { |one| AttachedDrives.contents(AttachedDrives.of(one.write.drive)).hosts == [one.computer.name] }
    end
    if Effort.all?
      click_button 'Start them in the emulator'
      eventually(400) { TrialStart.where(outcome: 'reached').count == 2 }
    end
    visit '/runs'
    expect(page).to have_css('tr', text: Run.last.number)
  end
end
