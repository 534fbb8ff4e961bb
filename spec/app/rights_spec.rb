# frozen_string_literal: true

require_relative 'app_helper'
require_relative 'desk'

# Every call that docs/openapi.yaml describes, by everybody who may be there.
RSpec.describe 'Rights' do
  calls = YAML.load_file(Api::Described::FILE)['paths'].flat_map do |path, all|
    all.map { |method, about| [method, path, about['x-right']] }
  end

  # Numbers that nobody has: who may call it learns that there is nothing, or that something is missing.
  def asked(desk, method, path)
    desk.call(method.to_sym, path.gsub(/\{[^}]*\}/, '999999999')).first
  end

  it 'are described for every call' do
    expect(calls.reject { |*, right| [*Technician::ROLES, 'anybody'].include?(right) }).to eq([])
    expect(calls.select { |method, *, right| method == 'get' && right == 'lead' }.map { |_, path,| path }).to eq(['/people'])
  end

  it 'are held for all calls, whoever asks' do
    Technician.create!(sign_in: 'rolf', name: 'Rolf Berg', initials: 'RB', role: 'reader', password: Demo.password)
    desks = { 'reader' => Desk.new('rolf'), 'technician' => Desk.new('kaja'), 'lead' => Desk.new('ina') }
    nobody = Desk.new('nobody')
    wrong = calls.flat_map do |method, path, right|
      next [] if path.start_with?('/session')

      # A signed-out caller learns nothing but that.
      shut = asked(nobody, method, path) == 401 ? [] : ["nobody #{method} #{path}"]
      desks.each do |role, desk|
        may = Technician::ROLES.index(role) >= Technician::ROLES.index(right)
        shut << "#{role} #{method} #{path}" if (asked(desk, method, path) == 403) == may
      end
      shut
    end
    expect(wrong).to eq([])
  end

  it 'say who may' do
    Technician.create!(sign_in: 'rolf', name: 'Rolf Berg', initials: 'RB', role: 'reader', password: Demo.password)
    why = 'only a technician may do that: you are signed in as a reader'
    expect(Desk.new('rolf').call(:post, '/dockets')).to eq([403, { 'error' => 'Refused', 'message' => why }])
    expect(Desk.new('kaja').call(:post, '/shelves').last['message']).to match(/only a lead/)
  end
end
