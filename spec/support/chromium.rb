# frozen_string_literal: true

# Debian's Chromium and ChromeDriver, both named, so that nothing is looked up
# on a network.
module Chromium
  ARGUMENTS = %w[--headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking
                 --disable-component-update --disable-sync --force-prefers-reduced-motion --disable-extensions
                 --disable-background-timer-throttling --disable-renderer-backgrounding --window-size=1280,800 --lang=en-GB].freeze

  # @return [Capybara::Selenium::Driver]
  def self.driver(app)
    options = Selenium::WebDriver::Chrome::Options.new(binary: '/usr/bin/chromium')
    [*ARGUMENTS, "--user-data-dir=#{Dir.mktmpdir('evrel-chromium')}"].each { |argument| options.add_argument(argument) }
    service = Selenium::WebDriver::Service.chrome(path: '/usr/bin/chromedriver')
    Capybara::Selenium::Driver.new(app, browser: :chrome, options:, service:).tap do |driver|
      # The window's size counts its frame; this is the page's.
      driver.browser.execute_cdp('Emulation.setDeviceMetricsOverride', width: 1280, height: 800, deviceScaleFactor: 1, mobile: false)
    end
  end
end
