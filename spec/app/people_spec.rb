# frozen_string_literal: true

require_relative 'app_helper'
require_relative 'desk'

RSpec.describe 'People' do
  let(:good) { 'nine lamps over water' }

  def message = JSON.parse(last_response.body)['message']
  def events(kind) = Event.where(kind:).order(:id).pluck(:text)

  # @return [String] code of a link
  def added(sign_in = 'tove', role: 'technician', name: 'Tove Lind')
    sign_in('ina')
    call(:post, '/people', sign_in:, name:, role:)['link'].split('#').last
  end

  def by_link(code, password = good)
    call(:get, '/session')
    call(:post, '/session/link', code:, password:)
  end

  it 'are added by a lead, and choose a password by a link that works once' do
    code = added
    expect(call(:get, '/people').find { |one| one['sign_in'] == 'tove' }).to include('initials' => 'TL', 'waits' => true)
    by_link(code, 'short')
    expect([status, message]).to eq([409, 'a password has at least 12 characters'])
    %w[password1234 zzzzzzzzzzzz 123456789012].each do |bad|
      by_link(code, bad)
      expect([status, message]).to eq([409, 'that password is among the first that somebody would try']), bad
    end
    by_link(code, 'å' * 40)
    expect([status, message]).to eq([409, 'a password has at most 72 bytes'])
    expect(by_link(code)['technician']).to include('name' => 'Tove Lind', 'role' => 'technician')
    expect(by_link(code)['message']).to match(/used up/)
    expect(sign_in('tove', password: good)['technician']['name']).to eq('Tove Lind')
    expect(events('person_added')).to eq(['Tove Lind was added as technician'])
  end

  it 'have links that end after a day, and are taken back by another one' do
    old = added
    person = Technician.find_by!(sign_in: 'tove')
    code = call(:post, "/people/#{person.id}/reset")['link'].split('#').last
    expect(by_link(old)['message']).to match(/used up/)
    person.update!(link_until: 1.second.ago)
    expect(by_link(code)['message']).to match(/too old/)
  end

  it 'are changed, and shut out at once' do
    tove = Desk.new('kaja')
    id = Technician.find_by!(sign_in: 'kaja').id
    sign_in('ina')
    call(:patch, "/people/#{id}", role: 'reader')
    expect(tove.call(:post, '/dockets', computer_id: Computer.first.id, cause: 'slow').first).to eq(403)
    call(:patch, "/people/#{id}", disabled: true)
    expect(tove.call(:get, '/dockets').first).to eq(401)
    sign_in('kaja')
    expect(status).to eq(401)
    expect(events('person_changed')).to eq(['Kaja Moe: role technician → reader', 'Kaja Moe: may not sign in any more'])
  end

  it 'are never left without a lead' do
    sign_in('ina')
    id = Technician.find_by!(sign_in: 'ina').id
    [{ role: 'technician' }, { disabled: true }].each do |change|
      call(:patch, "/people/#{id}", **change)
      expect([status, message]).to eq([409, 'Ina Hauge is the only lead'])
    end
    call(:post, "/people/#{id}/reset")
    expect([status, message]).to eq([409, 'Ina Hauge is the only lead'])
    # Somebody who never chose a password cannot let anybody in.
    call(:post, '/people', sign_in: 'tove', name: 'Tove Lind', role: 'lead')
    call(:patch, "/people/#{id}", role: 'technician')
    expect(status).to eq(409)
  end

  it 'refuses names that are taken, or none' do
    sign_in('ina')
    { 'kaja' => /already been taken/, 'Kaja Moe' => /small letters/, '' => /blank/ }.each do |name, why|
      call(:post, '/people', sign_in: name, name: 'Somebody', role: 'technician')
      expect([status, message]).to match([422, why])
    end
  end

  it 'change their own password, which ends every other sign-in of theirs' do
    elsewhere = Desk.new('kaja')
    sign_in('kaja')
    call(:put, '/me/password', old: 'wrong', new: good)
    expect(status).to eq(409)
    call(:put, '/me/password', old: Demo.password, new: good)
    expect(status).to eq(200)
    expect(elsewhere.call(:get, '/dockets').first).to eq(401)
    call(:get, '/dockets')
    expect(status).to eq(200)
  end

  it 'have wishes of their own, that go with them' do
    usual = { 'dates' => 'day-first', 'clock' => '24', 'numbers' => 'point', 'theme' => 'system', 'sound' => 'on' }
    expect(sign_in('kaja')['technician']['preferences']).to eq(usual)
    call(:patch, '/me/preferences', clock: '12', theme: 'dark')
    expect(sign_in('kaja')['technician']['preferences']).to include('clock' => '12', 'theme' => 'dark', 'dates' => 'day-first')
    expect(sign_in('ina')['technician']['preferences']).to include('clock' => '24')
  end

  it 'see where they are signed in, and end that' do
    elsewhere = Desk.new('kaja')
    sign_in('kaja')
    all = call(:get, '/me/sign-ins')
    expect(all.map { |one| one['this'] }).to contain_exactly(true, false)
    # Only one's own.
    call(:delete, "/me/sign-ins/#{SignIn.find_by!(technician: Technician.find_by!(sign_in: 'kaja')).id + 9000}")
    call(:delete, "/me/sign-ins/#{all.find { |one| !one['this'] }['id']}")
    expect(elsewhere.call(:get, '/dockets').first).to eq(401)
    expect(call(:get, '/me/sign-ins').size).to eq(1)
  end

  it 'are signed out everywhere by a lead' do
    kaja = Desk.new('kaja')
    sign_in('ina')
    call(:delete, "/people/#{Technician.find_by!(sign_in: 'kaja').id}/sign-ins")
    expect(kaja.call(:get, '/dockets').first).to eq(401)
    expect(events('signed_out')).to eq(['Kaja Moe was signed out'])
  end

  describe 'an Evrel in which nobody works yet' do
    before do
      DemoState.without_keys { %w[technicians dockets].each { |table| DemoState.sql("DELETE FROM #{table}") } }
      FileUtils.rm_f(Config.path(FirstLead::FILE))
    end

    it 'takes the one who reads its code as the first lead, and nobody after' do
      expect(call(:get, '/session')).to include('first' => true, 'technician' => nil)
      code = FirstLead.code
      expect(FirstLead.code).to eq(code)
      first = { code:, sign_in: 'tove', name: 'Tove Lind', password: good }
      call(:post, '/session/first', **first, code: 'aaaaa-aaaaa-aaaaa-aaaaa')
      expect([status, Technician.count]).to eq([401, 0])
      call(:post, '/session/first', **first, password: 'short')
      expect([status, Technician.count]).to eq([409, 0])
      expect(call(:post, '/session/first', **first)['technician']).to include('name' => 'Tove Lind', 'role' => 'lead')
      expect(File).not_to exist(Config.path(FirstLead::FILE))
      expect(FirstLead.code).to be_nil
      call(:post, '/session/first', **first, sign_in: 'other')
      expect([status, Technician.count]).to eq([409, 1])
    end
  end

  it 'are kept from a terminal as well' do
    admin = ->(*given) { Open3.capture2e('bundle', 'exec', RbConfig.ruby, 'app/admin.rb', 'technician', *given, chdir: Config::ROOT) }
    said, = admin.call('add', 'tove', 'Tove Lind', 'lead')
    by_link(said[/#(\S+)/, 1])
    expect(status).to eq(200)
    expect(admin.call('list').first).to match(/^tove +lead +Tove Lind$/)
    admin.call('disable', 'kaja')
    expect(admin.call('list').first).to match(/^kaja .*may not sign in$/)
    said, how = admin.call('reset', 'nobody')
    expect([said, how.exitstatus]).to match([/nobody signs in as nobody/, 1])
    expect(admin.call('rest').last.exitstatus).to eq(2)
  end
end
