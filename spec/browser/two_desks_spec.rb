# frozen_string_literal: true

require_relative 'browser_helper'

# One docket on two screens.
RSpec.describe 'Two desks' do
  def open_computer(as)
    sign_in_by_page(as)
    visit "/dockets/#{docket.id}/computer"
    expect(page).to have_button('Seal the computer')
  end

  # Nothing comes in on its own: as where the line was cut a moment ago.
  def cut_live
    page.driver.browser.execute_cdp('Network.enable')
    page.driver.browser.execute_cdp('Network.setBlockedURLs', urls: ['*/api/live*'])
  end

  it 'show each other at once what was done, and say why an own press had no effect' do
    open_computer('ina')
    Capybara.using_session(:kaja) { open_computer('kaja') }
    Capybara.using_session(:other) do
      visit '/'
      cut_live
      open_computer('kaja')
    end
    expect(page).to have_css('.head .others', text: 'at computer')
    click_button 'Seal the computer'
    expect(page).to have_current_path("/dockets/#{docket.id}/image")
    Capybara.using_session(:kaja) do
      expect(page).to have_no_button('Seal the computer')
      expect(page).to have_text('I. Hauge')
    end
    Capybara.using_session(:other) do
      click_button 'Seal the computer'
      expect(page).to have_css('[role=alert]', text: /I\. Hauge sealed Computer at \d\d:\d\d:\d\d: UEFI, drive failed\. Look at it again\./)
      expect(page).to have_no_button('Seal the computer')
    end
    expect(Seal.where(docket:, station: 'computer').count).to eq(1)

    # What one has chosen, the other sees before it is sealed.
    Capybara.using_session(:kaja) do
      visit "/dockets/#{docket.id}/image"
      first('tbody input[type=radio]').choose
      expect(page).to have_css('tr.on .others', text: 'has chosen this, too')
    end
    expect(page).to have_css('tr.on .others [title="K. Moe has chosen this, too"]')
    expect(page).to be_axe_clean
    Capybara.using_session(:kaja) { all('tbody input[type=radio]').last.choose }
    expect(page).to have_no_css('tr.on .others')
  end
end
