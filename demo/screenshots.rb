# frozen_string_literal: true

require 'capybara'
require 'capybara/dsl'
require 'fileutils'
require 'selenium-webdriver'
require 'tmpdir'
require_relative '../spec/support/chromium'

# One picture of each main view, on the way from sign-in to sign-off.
class Screenshots
  include Capybara::DSL

  FOLDER = File.expand_path('../docs/screenshots', __dir__)

  def initialize
    Capybara.register_driver(:chromium) { |app| Chromium.driver(app) }
    Capybara.default_driver = :chromium
    Capybara.run_server = false
    Capybara.app_host = "http://127.0.0.1:#{ENV.fetch('EVREL_PORT')}"
    Capybara.default_max_wait_time = 60
    FileUtils.mkdir_p(FOLDER)
  end

  def take
    visit '/'
    picture('sign-in') { has_css?('h1', text: 'evrel') }
    fill_in 'Sign-in', with: 'ina'
    fill_in 'Password', with: File.read(File.join(ENV.fetch('EVREL_VAR'), 'demo-password'))
    click_button 'Sign in'
    find('h1', text: 'Dockets')
    stations
    click_link 'Dockets'
    picture('dockets') { has_css?('li.sealed') }
    click_link 'Bench'
    picture('bench') { has_css?('.port-card', minimum: 6) }
    taking
    click_link 'Images'
    picture('images') { has_css?('tr.on') && has_css?('aside h2') }
    look_inside
    click_link 'Records'
    picture('records') { has_css?('tbody tr', minimum: 2) }
    click_link 'Computers'
    picture('computers') { has_css?('tbody tr', minimum: 3) }
    click_link 'Readiness'
    find('li', text: 'TKT-03').click_button('Prove it')
    picture('readiness') { has_css?('li', text: 'Ready', wait: 240) && has_css?('li svg', minimum: 6) }
    run
  end

  private

  def taking
    find('.port-card', text: 'K9XD').click
    click_link 'Take an image…'
    picture('take') { has_css?('.how .figure', minimum: 6) }
  end

  # Seven cards are proved as blank, and writing.
  def run
    visit '/images'
    find('input[aria-label="Only images with these words"]').set('KSK-01')
    find('tr', text: 'KSK-01', match: :first).click
    click_link 'Onto many drives…'
    find('button', text: 'of the image’s model').click
    uncheck 'KSK-01', allow_label_click: true
    fill_in 'Why this image is right for all of them', with: 'The cards of all kiosks are set up from this one'
    click_button 'Begin the run'
    fill_in 'Why they may be overwritten', with: 'New cards from the box'
    find('button', text: 'blank Lume Card 8').click
    has_text?('7 ready to be written')
    hold = find('button', text: 'Hold to overwrite')
    page.driver.browser.action.move_to(hold.native).click_and_hold.pause(duration: 1.4).release.perform
    picture('run') { has_css?('li.running .percent', text: /[2-9]\d %/, count: 7) }
  end

  def look_inside
    visit '/dockets/3/image'
    find('tr', text: 'TILL-05', match: :first)
    click_link 'Look inside'
    find('tr', text: 'srv').click
    find('tr', text: 'tides').click
    find('tr', text: 'tides-2031.db').click
    picture('inside') { has_css?('aside pre') }
    click_link 'Lay beside another…'
    picture('compare') { has_css?('.file', minimum: 1) }
  end

  def stations
    click_link 'TKT-03'
    picture('1-computer') { has_css?('[data-main]:not([disabled])') }
    send_keys(:enter)
    click_button 'Check it'
    picture('2-image') { has_css?('tr.on .chip', text: 'Whole') && has_css?('.fact', text: 'clusters checked') }
    click_button 'Seal this image'
    find('.card', text: 'old-stock').click
    fill_in 'Why it may be overwritten', with: 'Old stock, no longer needed'
    has_text?('1,204 files')
    fill_in 'label', with: '7q4'
    picture('3-target') { has_css?('.fact', text: 'look-alike') }
    find_field('label').send_keys('f', :enter)
    layout
    write
    start
  end

  def layout
    picture('4-layout') { has_css?('h3', text: 'After the restore') && has_css?('.fact', minimum: 5) }
    click_button 'Seal the layout'
  end

  def write
    hold = find('button', text: 'Hold to overwrite')
    page.driver.browser.action.move_to(hold.native).click_and_hold.pause(duration: 1.4).release.perform
    picture('5-writing') { has_css?('.orders li.now', text: 'Write System') && has_css?('.figures b', text: 'left') }
    click_link 'writing ·', exact: false
    picture('writes') { has_css?('.when b', text: 'left') }
    go_back
    picture('5-written') { has_text?('read back from the disk itself') }
    click_link 'Prove that it starts'
  end

  def start
    click_button 'Try starting it'
    picture('6-start') { has_css?('.chip.ok', text: 'Seen to start') && has_css?('a.screen img') }
    click_button 'Sign off: TKT-03 starts'
    find('.head .chip', text: 'Signed off')
  end

  # @yield until what the picture is of is there
  def picture(name)
    raise "#{name} did not show" unless yield

    sleep 0.6 # fonts and the last paint
    page.driver.browser.save_screenshot(File.join(FOLDER, "#{name}.png"))
    puts name
  end
end

Screenshots.new.take
