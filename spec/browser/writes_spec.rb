# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'Two writes at once' do
  second = 'TF48-3301-5B2C'
  # What a page would show, kept where it can be looked at.
  recorder = <<~JS
    window.told = []
    window.Notification = class { constructor(title, about) { window.told.push(about.body) } }
    window.Notification.permission = 'granted'
  JS

  before { @beside = spawn('bundle', 'exec', RbConfig.ruby, 'app/worker.rb', 'writing', '2', chdir: Config::ROOT, pgroup: true) }

  after do
    Process.kill(:KILL, -@beside)
    Process.wait(@beside)
  end

  # @return [Docket] with its first four stations sealed
  def sealed_for(docket, label)
    @docket = docket
    seal_up_to('target', label:)
    call(:post, "/dockets/#{docket.id}/layout/plan", wish: { way: 'as_in_image' })
    seal('layout')
    docket
  end

  attr_reader :docket

  it 'are shown in large type, go on beside what else is done, and tell whoever wants to know' do
    sign_in
    plugged(second, '6')
    one = sealed_for(Docket.find_by!(cause: 'drive_failed'), '7Q4F')
    stub_const('Requests::REPLACEMENT', second)
    two = sealed_for(Docket.create!(computer: one.computer, cause: 'rehearsal', opened_by: Technician.first), '5B2C')
    # Each order a moment longer than a look at the page takes.
    [one, two].each { |docket| slow(docket.target.serial, bytes_per_second: 12_000_000) }

    sign_in_by_page
    page.execute_script("localStorage.setItem('evrel-tell', 'yes')")
    visit '/writes'
    page.execute_script(recorder)
    expect(page).to have_text('Nothing is being written')
    [one, two].each { |docket| call(:post, "/dockets/#{docket.id}/write") }
    expect(page).to have_css('li.running', count: 2)
    # Of each what is done now: while the first is looked for, the second goes on.
    [one, two].each { |docket| expect(page).to have_css("li.running a[href='/dockets/#{docket.id}/write']", text: /Write |Read /) }
    expect(page).to be_axe_clean

    # Neither a trial start that is stopped nor a check that is paused disturbs them.
    trial = call(:post, "/dockets/#{one.id}/trial", image_id: image.id)
    call(:post, "/trials/#{trial['id']}/stop")
    call(:post, "/images/#{image.id}/check")
    call(:post, "/images/#{image.id}/check/pause")

    expect(page).to have_css('li.done', count: 2, wait: 200)
    eventually(200) { page.evaluate_script('window.told').size == 2 }
    expect(page.evaluate_script('window.told')).to eq(['TKT-03 is written and read back'] * 2)
    together = [one, two].map(&:write)
    expect(together).to all(have_attributes(state: 'done', verified: true))
    expect(together.map(&:started_at).max).to be < together.map(&:finished_at).min
    [one, two].each { |docket| expect(run('sgdisk', '-v', drive_path(docket.target.serial))).to include('No problems found') }
    eventually(200) { TrialStart.find(trial['id']).state == 'done' }
    expect(TrialStart.find(trial['id']).outcome).to eq('stopped')
  end
end
