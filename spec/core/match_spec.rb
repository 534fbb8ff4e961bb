# frozen_string_literal: true

RSpec.describe Evrel::Match do
  now = Time.now
  day = 86_400

  def document(taken_at, computer: {}, drive: {}, systems: [], kind: 'gpt', roles: %w[startup system recovery], guid: 'aa')
    parts = roles.each_with_index.map do |role, at|
      { 'number' => at + 1, 'role' => role, 'name' => role, 'start_bytes' => at, 'size_bytes' => 1 }
    end
    Evrel::Image::Document.new(
      'taken_at' => taken_at.iso8601, 'computer' => computer, 'drive' => drive, 'systems' => systems, 'used_bytes' => 5, 'note' => '',
      'disk' => { 'size_bytes' => 1000, 'logical_sector' => 512, 'clusters' => 7 },
      'table' => kind && { 'kind' => kind, 'guid' => guid, 'partitions' => parts }
    )
  end

  own = { 'system_identity' => 'ID-1', 'model' => 'Brisk', 'name' => 'TKT-03' }
  twin = { 'system_identity' => 'ID-2', 'model' => 'Brisk', 'name' => 'TKT-04' }
  define_method(:problem) do |cause = 'drive_failed', **fields|
    described_class::Problem.new(name: 'TKT-03', system_identity: 'ID-1', model: 'Brisk', firmware: 'uefi', host_names: ['TKT-03'],
                                 drive_serials: ['S1'], disk_guids: ['aa'], cause:,
                                 since: now - (5 * day), noticed: now - (5 * day), **fields)
  end

  def offer(key, document, **fields)
    described_class::Offer.new(key:, document:, state: 'whole', checked_at: Time.now, reachable: true, where: 'On shelf Holm', **fields)
  end

  def keys(offers, problem) = described_class.rank(offers, problem).map { |ranking| ranking.offer.key }

  let(:offers) do
    [offer(:old, document(now - (40 * day), computer: own)), offer(:before, document(now - (6 * day), computer: own)),
     offer(:after, document(now - (2 * day), computer: own)),
     offer(:damaged, document(now - (5.5 * day), computer: own), state: 'damaged', damage: '3 clusters differ'),
     offer(:twin, document(now - (1 * day), computer: twin)), offer(:other, document(now - day, computer: { 'system_identity' => 'ID-9' }))]
  end

  it 'takes the newest whole image where the drive failed' do
    expect(keys(offers, problem('drive_failed')).first(3)).to eq(%i[after before old])
  end

  it 'puts a whole image before a newer one that was not read in full, and says so' do
    torn = document(now - day, computer: own)
    torn.document['unread'] = [[0, 512]]
    ranked = described_class.rank([offer(:torn, torn), *offers], problem)
    expect(ranked.map { |ranking| ranking.offer.key }.first(4)).to eq(%i[after before old torn])
    expect(ranked[3].why).to eq('Not all of the disk could be read')
    expect(described_class.rank([offer(:torn, torn)], problem).first).to be_ruled_out
  end

  it 'takes the last one from before an infection or a corruption' do
    %w[infected corrupt slow].each { |cause| expect(keys(offers, problem(cause)).first(2)).to eq(%i[before old]), cause }
    expect(described_class.rank(offers, problem('infected')).first.why).to eq('Last whole image before the trouble')
  end

  it 'puts what was taken between two moments behind what is surely from before' do
    span = problem('infected', since: now - (30 * day), noticed: now - (5 * day))
    expect(keys(offers, span).first(2)).to eq(%i[old before])
    expect(described_class.rank(offers, span).find { |one| one.offer.key == :before }.moment).to eq(:between)
  end

  it 'says that nothing is known where the docket does not say since when' do
    ranking = described_class.rank(offers, problem('corrupt', since: nil, noticed: nil)).first
    expect(ranking.offer.key).to eq(:after)
    expect(ranking.facts.find { |fact| fact.id == 'moment' }).to have_attributes(state: :ask, title: /Not known/)
  end

  it 'never puts a twin or a damaged image before one of its own that is whole, and says what they are' do
    ranked = described_class.rank(offers, problem)
    expect(ranked.map { |one| one.offer.key }.last(2)).to eq(%i[twin other])
    expect(ranked.find { |one| one.offer.key == :twin }).to have_attributes(relation: :twin, why: /Twin computer/)
    expect(ranked.find { |one| one.offer.key == :damaged }).to have_attributes(ruled_out?: true, why: 'Damaged: 3 clusters differ')
    only = described_class.rank([offers[4]], problem).first
    expect(only.facts.first).to have_attributes(state: :ask, title: /TKT-04/, detail: /twin/)
  end

  it 'recognises its own by host name, drive and disk where no identity was written down' do
    inside = document(now - (6 * day), systems: [{ 'part' => 2, 'host' => 'tkt-03' }])
    traces = document(now - (6 * day), drive: { 'serial' => 'S1' })
    stranger = document(now - (6 * day), systems: [{ 'part' => 2, 'host' => 'SRV-01' }], guid: 'bb')
    blank = document(now - (6 * day), guid: 'bb')
    offers = [offer(1, inside), offer(2, traces), offer(3, stranger), offer(4, blank)]
    relations = described_class.rank(offers, problem).to_h { |one| [one.offer.key, one.relation] }
    expect(relations).to eq(1 => :own, 2 => :own, 3 => :other, 4 => :unclear)
  end

  it 'shows the weight of each trace' do
    marks = described_class.rank([offers[1]], problem).first.marks
    expect(marks.to_h { |mark| [mark.fact.id, mark.weight] }).to include('system' => 60, 'disk' => 40, 'whole' => 20, 'moment' => 20)
  end

  it 'rules out what would not start, and asks where the firmware is another' do
    data = offer(:data, document(now - day, computer: own, roles: %w[startup]))
    bios = offer(:bios, document(now - (2 * day), computer: own, kind: 'mbr', roles: %w[system]))
    volume = offer(:volume, document(now - day, computer: own, kind: nil))
    ranked = described_class.rank([data, bios, volume, offers[1]], problem).to_h { |one| [one.offer.key, one] }
    expect(ranked.transform_values(&:ruled_out?)).to eq(data: true, volume: true, bios: false, before: false)
    expect(ranked[:bios].facts).to include(have_attributes(id: 'firmware', state: :ask))
  end

  it 'ranks an image that has to be fetched by what it is, and says where it lies' do
    away = offer(:away, document(now - (5.2 * day), computer: own), reachable: false, where: 'On drive …C02M, last seen 3 March on port 2')
    first = described_class.rank([*offers, away], problem('corrupt')).first
    expect(first.offer.key).to eq(:away)
    expect(first.why).to end_with('it has to be fetched')
    expect(first.facts).to include(have_attributes(id: 'shelf', state: :no, detail: /C02M/))
  end

  it 'compares moments, whatever their zones, across the change of the clocks' do
    trouble = Time.new(2031, 3, 30, 3, 30, 0, '+02:00') # an hour after the clocks went forward
    before = Time.new(2031, 3, 30, 1, 59, 0, '+01:00')
    far = Time.new(2031, 3, 30, 12, 45, 0, '+11:00')  # 15 minutes after it
    after = Time.new(2031, 3, 30, 1, 40, 0, '+00:00') # earlier by the clock, ten minutes after it
    span = problem('infected', since: trouble, noticed: trouble)
    expect([before, far, after].map { |time| described_class::Moment.of(time, span) }).to eq(%i[before after after])
  end

  it 'notices a clock that was ahead' do
    expect(described_class.rank([offer(1, document(now + (9 * day), computer: own))], problem).first.facts)
      .to include(have_attributes(id: 'clock', state: :ask, title: 'Dated in the future'))
  end
end
