# frozen_string_literal: true

require_relative '../app/app_helper'
require 'axe-rspec'
require 'capybara/rspec'
require 'selenium-webdriver'

Capybara.register_driver(:chromium) { |app| Chromium.driver(app) }
Capybara.register_server(:evrel) do |app, port, host|
  require 'rack/handler/puma'
  Rack::Handler::Puma.run(app, Host: host, Port: port, Threads: '4:16', Silent: true, config_files: ['-'])
end
Capybara.app = Requests::STACK
Capybara.server = :evrel
Capybara.default_driver = Capybara.javascript_driver = :chromium
Capybara.default_max_wait_time = 20
# Each look at the page takes a tenth of a second of a processor, which what is waited for needs too.
Capybara.default_retry_interval = 0.3
Capybara.disable_animation = false
Capybara.enable_aria_label = true
# The pages have no frames: what is found is found in the page itself, without a second window that has to be open within a second.
Axe::Configuration.instance.legacy_mode = true

# The pages as a technician uses them, with a real worker beside the server.
module Pages
  def sign_in_by_page(as = 'ina')
    visit '/'
    fill_in 'Sign-in', with: as
    fill_in 'Password', with: Demo.password
    click_button 'Sign in'
    expect(page).to have_css('h1', text: 'Dockets')
  end

  def hold(button)
    page.driver.browser.action.move_to(button.native).click_and_hold.pause(duration: 1.4).release.perform
  end

  def hold_enter(seconds)
    page.driver.browser.action.key_down(:enter).perform
    sleep seconds
    page.driver.browser.action.key_up(:enter).perform
  end

  # @return [Integer] process id
  def start_worker
    spawn('bundle', 'exec', RbConfig.ruby, 'app/worker.rb', 'writing', 'reading', 'drives', 'takings',
          chdir: Config::ROOT, pgroup: true, %i[out err] => [Config.path('worker.log'), 'a'])
  end

  # Slow enough for somebody to see it, and to reach the plug.
  def slow(serial = Requests::REPLACEMENT, bytes_per_second: 22_000_000)
    bench.change_drive(serial) { |about| about['faults'] = { 'bytes_per_second' => bytes_per_second } }
  end

  def docket = Docket.order(:id).first
  def drive_path(serial) = AttachedDrives.by_key(serial).local_path
end

# One worker for example after example, as long as it lives and has nothing to do when one ends.
module KeptWorker
  class << self
    # @return [Integer, nil] process id of the one that is there
    def take
      kept = @kept
      @kept = nil
      kept
    end

    # @param process [Integer] what the example had
    def give(process)
      idle? && alive?(process) ? @kept = process : stop(process)
    end

    def finish = @kept && stop(take)

    private

    def idle? = Delayed::Job.where(failed_at: nil).none? && TakeUp::KINDS.all? { |kind| kind.at_work.none? }

    def alive?(process)
      Process.wait(process, Process::WNOHANG).nil?
    rescue Errno::ECHILD
      false # the example ended it
    end

    def stop(process)
      Process.kill(:KILL, -process)
      Process.wait(process)
    rescue Errno::ESRCH, Errno::ECHILD
      nil
    end
  end
end

RSpec.configure do |config|
  config.define_derived_metadata(file_path: %r{/spec/browser/}) { |metadata| metadata[:type] = :feature }
  config.include Requests, type: :feature
  config.include Pages, type: :feature
  config.before(:each, type: :feature) do
    DemoState.reset
    @worker = KeptWorker.take || start_worker
  end
  config.after(:each, type: :feature) do |example|
    if example.exception
      page.save_screenshot(Config.path("failed-#{example.description.tr(' ', '-')[0, 60]}.png"))
      text = page.text.lines(chomp: true).first(200)
      example.metadata[:extra_failure_lines] = ["At #{page.current_path} the page said:", *text]
    end
    Capybara.reset_sessions!
    KeptWorker.give(@worker)
  end
  # Other examples have no worker but their own.
  config.before { |example| KeptWorker.finish unless example.metadata[:type] == :feature }
  config.after(:suite) { KeptWorker.finish }
end
