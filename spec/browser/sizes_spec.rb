# frozen_string_literal: true

require_relative 'browser_helper'

# The pages on a smaller screen, and those that somebody opens on a telephone.
RSpec.describe 'On a smaller screen' do
  def sized(width, height)
    page.driver.browser.execute_cdp('Emulation.setDeviceMetricsOverride', width:, height:, deviceScaleFactor: 1, mobile: width < 700)
  end

  after { page.driver.browser.execute_cdp('Emulation.clearDeviceMetricsOverride') }

  # @return [Array<Integer>] by how many pixels the page is too wide, and too high
  def over
    page.evaluate_script('[document.documentElement.scrollWidth - innerWidth, document.documentElement.scrollHeight - innerHeight]')
  end

  # @return [Array<String>] texts of these whose right edge lies outside of what holds them
  def cut(css)
    page.evaluate_script(<<~JS)
      [...document.querySelectorAll(#{css.to_json})]
        .filter((one) => one.getBoundingClientRect().right > one.parentElement.getBoundingClientRect().right + 1)
        .map((one) => one.textContent.trim())
    JS
  end

  it 'nothing lies outside at 1024 by 768, nor on a telephone' do
    sign_in
    seal_up_to('target')
    sign_in_by_page
    sized(1024, 768)
    %w[/dockets /images /computers /readiness /bench /records].each do |path|
      visit path
      expect(page).to have_css('h1')
      expect([path, over]).to eq([path, [0, 0]])
    end
    visit "/dockets/#{docket.id}/layout"
    expect(page).to have_button('One part only')
    expect([cut('.segments button'), over]).to eq([[], [0, 0]])

    sized(390, 844)
    ['/dockets', '/writes', "/dockets/#{docket.id}/start", "/dockets/#{docket.id}/write"].each do |path|
      visit path
      expect(page).to have_css('h1')
      expect([path, over.first]).to eq([path, 0])
    end
    sized(1280, 800)
    visit "/dockets/#{docket.id}"
    click_button 'Docket…'
    click_button 'On the telephone…'
    expect(page).to have_css('[role=dialog] svg[aria-label$="/start"]').and have_text('leads to this machine only')
    expect(page).to be_axe_clean
  end
end
