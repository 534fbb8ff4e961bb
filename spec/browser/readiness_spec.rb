# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'Readiness' do
  # The hours of the night are told to it: the worker, which does the work, has the clock of this machine.
  def let_the_night_pass(at, seconds: 200)
    proving = Proving.new
    deadline = Time.now + seconds
    until Proof.done.exists?
      raise "the proof stays #{Proof.last&.state}" if Time.now > deadline

      proving.go_on(at)
      sleep 0.5
    end
  end

  it 'goes from not proved to ready by itself overnight' do
    computer = docket.computer
    computer.update!(wish_days: 365)
    Image.where(computer:).where.not(id: image.id).update_all(gone_at: Time.now)
    image.update!(state: 'unchecked', checked_at: nil)

    sign_in_by_page
    click_link 'Readiness'
    expect(page).to have_text("0 of #{Computer.in_use.count} computers could be restored today")
    row = find('li', text: computer.name)
    expect(row).to have_text('Not proved').and have_text('never read through').and have_button('Prove it')
    expect(page).to be_axe_clean

    evening = Time.now.getlocal + 7200
    click_button 'At night…'
    check 'prove at night'
    fill_in 'From', with: evening.strftime('%H:%M')
    fill_in 'Until', with: (evening + 3600).strftime('%H:%M')
    expect(page).to be_axe_clean
    click_button 'Keep it'
    expect(page).to have_no_css('[role=dialog]')
    let_the_night_pass(evening + 600)

    row = find('li', text: computer.name)
    expect(row).to have_text('Ready', wait: 60).and have_text('seen to start').and have_button('Prove')
    expect(page).to have_text("1 of #{Computer.in_use.count} computers could be restored today")
    click_link 'Dockets'
    expect(page).to have_text('1 computer proved at night')
  end
end
