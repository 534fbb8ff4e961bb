# frozen_string_literal: true

require 'active_support/testing/time_helpers'
require_relative 'app_helper'

# Whether computers could be restored today, and how that is proved by itself.
RSpec.describe 'Readiness' do
  include ActiveSupport::Testing::TimeHelpers

  before { sign_in }
  after { travel_back }

  let(:computer) { docket.computer }
  let(:proving) { Proving.new }

  def row(name = computer.name) = call(:get, "/readiness?q=#{name}")['computers'].first
  def message = JSON.parse(last_response.body)['message']
  # Only its newest image counts.
  def only(image) = Image.where(computer:).where.not(id: image.id).update_all(gone_at: Time.now)

  # Until nothing is open any more, as the worker does it.
  def until_done(now = Time.now)
    20.times do
      proving.go_on(now)
      return Proof.last if Proof.open.none?

      work_off
    end
    raise "it stays #{Proof.last.state}"
  end

  # Every trial start comes to this at once.
  def starts_end_as(outcome, message = 'Reached the log-in after 9.0 s')
    result = Evrel::Startup::Trial::Result.new(outcome:, seconds: 9.0, lines: [], text: '', milestones: [], message:)
    allow(Evrel::Startup::Trial).to receive(:new).and_return(instance_double(Evrel::Startup::Trial, run: result))
  end

  it 'is told of every computer, the worst first, with one line for whoever asks' do
    page = call(:get, '/readiness')
    expect(page['total']).to eq(Computer.count)
    ranks = page['computers'].map { |one| %w[not_possible not_proved ready].index(one['state']) }
    expect(ranks).to eq(ranks.sort)
    expect(page['words']).to eq("0 of #{Computer.count} computers could be restored today, #{page['counts']['not_proved']} not proved, " \
                                "#{page['counts']['not_possible']} could not")
    expect(call(:get, '/readiness?state=not_possible')['total']).to eq(page['counts']['not_possible'])
  end

  it 'is proved by reading the image and starting it' do
    only(image)
    image.update!(state: 'unchecked', checked_at: nil)
    starts_end_as(:reached)
    expect(row).to include('state' => 'not_proved', 'todo' => 'prove')
    call(:post, "/computers/#{computer.id}/prove")
    expect([status, until_done.outcome]).to eq([202, 'proved'])
    computer.update!(wish_days: 365)
    expect(row).to include('state' => 'ready', 'todo' => nil, 'proof' => include('outcome' => 'proved', 'by_night' => false))
    expect(row['marks'].first).to include('checked' => true, 'started' => true)
  end

  it 'makes room for a write, and goes on after it' do
    starts_end_as(:reached)
    seal_as_in_image
    call(:post, "/computers/#{computer.id}/prove")
    write = Write.create!(docket:, technician: Technician.first, source: image, drive: drive(Requests::REPLACEMENT), state: 'queued',
                          orders: [], progress: {})
    proving.go_on
    expect(Proof.last.state).to eq('waiting')
    write.update!(state: 'stopped')
    image.update!(state: 'unchecked')
    Proof.last.update!(image:)
    proving.go_on
    expect([Proof.last.state, image.reload.state]).to eq(%w[checking checking])
    image.update!(check_progress: { doing: 'checking', done: 41, total: 100 })
    expect(row['proof']).to include('state' => 'checking', 'percent' => 41)
    write.update!(state: 'queued')
    proving.go_on
    work_off
    expect([Proof.last.held, image.reload.state]).to eq([true, 'paused'])
    expect(call(:get, "/readiness?q=#{computer.name}")['computers'].first['proof']).to include('held' => true)
    write.update!(state: 'stopped')
    expect(until_done.outcome).to eq('proved')
  end

  it 'tells it as news where an image that started does not start any more' do
    only(image)
    Proof.create!(computer:, image:, technician: Technician.first, state: 'done', outcome: 'proved', finished_at: 3.days.ago)
    starts_end_as(:stuck, 'Stuck at the loader: nothing moved any more')
    call(:post, "/computers/#{computer.id}/prove")
    expect(until_done.outcome).to eq('not_started')
    expect(call(:get, '/readiness/told')['news']).to match([include('computer' => computer.name, 'message' => /Stuck at the loader/)])
    expect(Event.where(kind: 'proof_news').last.text).to start_with("#{computer.name}: not as before: ")
    expect(row).to include('state' => 'not_proved', 'because' => start_with('it did not start'))
  end

  it 'is proved in the hours of the night, the oldest first, each once, and told in the morning' do
    starts_end_as(:reached)
    expect(call(:put, '/night', begins: '22:00', ends: '05:00')['window']).to include('begins' => '22:00', 'by' => 'I. Hauge')
    noon = Time.now.getlocal.change(hour: 12)
    until_done(noon)
    expect(Proof.count).to eq(0)
    night = noon.change(hour: 23)
    travel_to(night)
    5.times { until_done(night + 60) }
    sign_in # the day's has ended by itself
    expect(Proof.where(by_night: true).group(:computer_id).count.values.uniq).to eq([1])
    told = call(:get, '/readiness/told')['night']
    expect(told['proved'] + told['others']).to eq(Proof.count)
    expect([told['proved'], call(:get, '/readiness')['counts']['ready']]).to all(be_positive)
    call(:put, '/night')
    expect(NightWindow.here).to be_nil
  end

  it 'is stopped by whoever wants to' do
    call(:post, "/computers/#{computer.id}/prove")
    proving.go_on
    call(:post, "/proofs/#{Proof.last.id}/stop")
    expect(Proof.last).to have_attributes(state: 'done', outcome: 'stopped')
    work_off
    expect(row['proof']).to include('state' => 'done')
  end

  it 'refuses hours that are none, and a computer without an image' do
    { { begins: '22:00', ends: '22:00' } => /Ends is when it begins/, { begins: '22:00' } => /Ends is a time/ }.each do |given, why|
      call(:put, '/night', **given)
      expect([status, message]).to match([422, why])
    end
    bare = Computer.create!(name: 'BARE-1')
    call(:post, "/computers/#{bare.id}/prove")
    expect([status, message]).to match([409, /no image of BARE-1/])
  end

  it 'leaves as a table and as one page' do
    get '/api/readiness.csv'
    table = CSV.parse(last_response.body, headers: true)
    expect(table['computer']).to match_array(Computer.in_use.pluck(:name))
    expect(table['readiness'].uniq - ['ready', 'not proved', 'not possible']).to be_empty
    120.times { |number| Computer.create!(name: "DESK-#{number}", place: 'a place with a rather long name ' * 3) }
    get '/api/readiness.pdf'
    File.binwrite(Config.path('readiness.pdf'), last_response.body)
    said = run('pdftotext', '-layout', Config.path('readiness.pdf'), '-')
    expect(said.count("\f")).to eq(1)
    expect(said).to include('Could it be restored today?', 'DESK-0: not possible', 'more, none worse')
  end

  it 'counts a start that was stuck where images are ranked' do
    trial = image.trial_starts.create!(technician: Technician.first, state: 'done', outcome: 'stuck')
    offers = -> { RankedImages.new(docket).of(image).offer.trial }
    expect(offers.call).to eq(:failed)
    trial.update!(outcome: 'stopped')
    expect(offers.call).to be_nil
  end
end
