# frozen_string_literal: true

require_relative 'app_helper'

# Several benches at one host, and hosts that share the database.
RSpec.describe 'Benches' do
  let(:first) { Benches[Config.bench] }
  let(:second) do
    Class.new(StandIns::Bench) { def offers = [] }.new(file('bench-2'), name: 'bench-2')
  end

  # A drive in a port of the same name as one of the first bench.
  before do
    second.make({ 'serial' => 'SK-77-4R2D', 'maker' => 'Cobb', 'model' => 'Skerry', 'capacity' => 64 * Disks::MIB, 'bus' => 'SATA',
                  'logical_sector' => 512, 'physical_sector' => 4096 })
    second.plug('SK-77-4R2D', '3')
    Benches.all = [first, second]
    sign_in
  end

  after { Benches.all = nil }

  def message = JSON.parse(last_response.body)['message']
  def port(bench, port, list = call(:get, '/bench')) = list['ports'].find { |one| one.values_at('bench', 'port') == [bench, port] }

  it 'are shown with what each offers, and its drives by bench and port' do
    shown = call(:get, '/bench')
    expect(shown['benches']).to eq([{ 'name' => Config.bench, 'offers' => %w[handling computers] },
                                    { 'name' => 'bench-2', 'offers' => [] }])
    expect(port('bench-2', '3', shown)['drive']).to include('bench' => 'bench-2', 'serial' => 'SK-77-4R2D', 'faults' => {})
    expect(port(Config.bench, '3', shown)['drive']).to include('bench' => Config.bench, 'serial' => Requests::REPLACEMENT)
    expect(drive('SK-77-4R2D')).to have_attributes(last_bench: 'bench-2', last_port: '3')
    expect(drive('SK-77-4R2D').drive_sightings.pluck(:bench, :port)).to eq([%w[bench-2 3]])
  end

  it 'are handled only where they offer it' do
    call(:post, '/bench/ports/3/pull', bench: 'bench-2')
    expect([status, message]).to match([404, /no bench here that offers handling/])
    expect(second.drives.size).to eq(1)
    call(:post, '/bench/ports/3/pull', bench: Config.bench)
    expect(status).to eq(200)
    expect([first.drives.map(&:port).include?('3'), second.drives.size]).to eq([false, 1])
  end

  it 'have queues of their own: work goes to the workers of its drive’s bench' do
    call(:get, '/bench')
    task = DriveTask.create!(drive: drive('SK-77-4R2D'), technician: Technician.first, kind: 'clean', state: 'queued', params: {})
    expect([task.bench, task.queue]).to eq(%w[bench-2 bench-2])
    write = Write.new(docket:, technician: Technician.first, source: image, drive: drive(Requests::REPLACEMENT))
    expect([write.tap(&:valid?).bench, write.queue]).to eq([Config.bench] * 2)
  end

  it 'prove a drive by its own moves, not by those of another' do
    call(:get, '/bench')
    check = UnplugProof.begin(nil, drive('SK-77-4R2D'), second.drives.first, Technician.first)
    first.swap('1', '3')
    second.pull('3')
    expect(UnplugProof.new(check).follow.state).to eq('away')
    second.plug('SK-77-4R2D', '4')
    expect(UnplugProof.new(check).follow).to have_attributes(state: 'passed', bench: 'bench-2', port: '4')
  end

  it 'say where it lies, what is kept at another host' do
    trial = image.trial_starts.create!(technician: Technician.first, state: 'done', bench: 'far-quay', picture: 'trial-1.png')
    call(:get, "/trials/#{trial.id}/picture")
    expect([status, message]).to eq([404, 'it lies at far-quay'])
  end

  it 'are watched: what changes by itself is noted, and open pages are told' do
    watch = BenchWatch.new
    watch.round
    pulse = Pulse.new
    expect(pulse.news.map(&:first)).not_to include('bench')
    second.pull('3')
    expect(pulse.news.map(&:first)).not_to include('bench') # it is not noted yet
    watch.round
    expect(pulse.news.map(&:first)).to include('bench')
  end

  it 'reach a database elsewhere over a line that is checked' do
    kept = ENV.to_h
    ENV.update('EVREL_DB_HOST' => 'records.example', 'EVREL_DB_USER' => 'quay', 'EVREL_DB_CA' => '/etc/authority.pem')
    expect(Config.database).to include(host: 'records.example', username: 'quay', ssl: true, ssl_mode: 'SSL_MODE_VERIFY_IDENTITY',
                                       ssl_ca: '/etc/authority.pem')
  ensure
    ENV.replace(kept)
  end
end
