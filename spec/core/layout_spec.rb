# frozen_string_literal: true

RSpec.describe Evrel::Layout do
  let(:image) { Evrel::Image.open(captured(three_parts)) }

  def target(size, sector = 512) = described_class::Target.new(size: size / sector * sector, sector:, physical_sector: 4096)

  def plan(wish, size = 4 * (10**9), sector = 512)
    described_class::Planner.new(described_class::Source.of(image), target(size, sector), wish).plan
  end

  def facts(plan) = plan.checks.to_h { |fact| [fact.id, fact] }

  it 'keeps every part where it was, on the same or a larger disk' do
    plan = described_class.as_in_image(image, target(4 * (10**9)))
    expect(plan.pieces.map { |piece| [piece.image_start, piece.size] }).to eq(image.table.partitions.map { |part| [part.start, part.size] })
    expect(plan.pieces).to all(have_attributes(target_start: satisfy { |start| (start % Disks::MIB).zero? }))
    expect(plan.free_at_end).to be_within(Disks::MIB).of((4 * (10**9)) - (497 * Disks::MIB))
    expect(facts(plan)['room']).to have_attributes(state: :ask, title: /3\.5 GB stay unallocated/)
    expect(facts(plan)['alignment'].title).to eq('Aligned to 1 MiB')
  end

  it 'is the same plan for the same wish, and another for another disk' do
    plans = [10**9, 10**9, 2 * (10**9)].map { |size| described_class.as_in_image(image, target(size)).digest }
    expect(plans[0]).to eq(plans[1])
    expect(plans[0]).not_to eq(plans[2])
  end

  it 'refuses what does not fit with the reason and what would mend it' do
    expect { described_class.as_in_image(image, target(400 * Disks::MIB)) }.to raise_error(Evrel::DoesNotFit, /too small.*shrink System to/)
    bare = plan({ 'way' => 'shrink', 'air' => 0 }, 90 * Disks::MIB)
    expect(bare.problem.detail).to match(/leave out Swap|choose a drive of/)
  end

  it 'takes what air there is where more was wished for, says so, and refuses only below the true least size' do
    parts = source(['ext4', :system, 2000, 900, resizable(1000)])
    [[1300, nil], [1100, /gets 10\d MB of air/], [1004, /gets .* of air/]].each do |size, said|
      shrunk = planned(parts, size * Disks::MIB, { 'way' => 'shrink' })
      expect([size, shrunk.valid?]).to eq([size, true])
      expect(facts(shrunk)['air']&.title.to_s).to match(said || /\A\z/)
    end
    expect(planned(parts, 1000 * Disks::MIB, { 'way' => 'shrink' })).to have_attributes(valid?: false)
  end

  it 'grows the system into all there is, and what stands behind it moves to the end' do
    wish, why = described_class::Proposal.for(described_class::Source.of(image), target(4 * (10**9)))
    expect([wish, why]).to match([{ 'way' => 'grow', 'part' => 2 }, /System takes it/])
    grown = plan(wish)
    expect(grown.places.map(&:change)).to eq(['as is', 'grows', 'moves'])
    expect(grown.free_at_end).to be < Disks::MIB
    expect(grown.places.last.size).to eq(32 * Disks::MIB)
  end

  # Plain data: what a source says of an image's parts.
  def source(*parts)
    table = image.table
    at = Disks::MIB
    made = parts.each_with_index.map do |(kind, role, size, used, limits), index|
      volume = { 'kind' => kind, 'used_bytes' => used * Disks::MIB, 'label' => "#{kind} #{index + 1}" }
      described_class::Part.new(number: index + 1, name: '', role:, type: '0x83', guid: '', attributes: 0, start: at, size: size * Disks::MIB,
                                volume:, logical: false,
                                limits: limits || Evrel::Volume::Limits.fixed(size * Disks::MIB, "#{kind} keeps its size"))
                           .tap { at += size * Disks::MIB }
    end
    described_class::Source.new(kind: 'gpt', sector: 512, size: at + (2 * Disks::MIB), table:, parts: made, outside: [])
  end

  def resizable(least, resizer = Evrel::Volume::ExtResizer) = Evrel::Volume::Limits.new(least: least * Disks::MIB, most: nil, resizer:)

  def proposed(source, size) = described_class::Proposal.for(source, target(size))
  def planned(source, size, wish) = described_class::Planner.new(source, target(size), wish).plan

  it 'grows what holds the system, and not the small part that starts it' do
    boot = ['ext4', :data, 500, 100, resizable(120)]
    %w[lvm luks2 btrfs].each do |kind|
      wish, why = proposed(source(boot, [kind, :data, 8000, 8000]), 20 * (10**9))
      expect([wish, why]).to match([{ 'way' => 'grow', 'part' => 2 }, /only its partition grows; grow inside with/])
      fitted = planned(source(boot, [kind, :data, 8000, 8000]), 20 * (10**9), wish)
      expect([fitted.valid?, fitted.places.map(&:change), fitted.free_at_end]).to match([true, ['as is', 'grows'], be < Disks::MIB])
      expect(facts(fitted)['keeps'].detail).to match(/grow inside with.*stay unused until then/)
    end
    expect(proposed(source(boot, ['linux-raid', :data, 8000, 8000]), 20 * (10**9)))
      .to match([{ 'way' => 'as_in_image' }, /none of its parts can grow/])
  end

  it 'refuses to grow what cannot, instead of doing nothing' do
    raid = planned(source(['ext4', :data, 500, 100, resizable(120)], ['linux-raid', :data, 800, 800]), 4 * (10**9),
                   { 'way' => 'grow', 'part' => 2 })
    expect(raid.problem).to have_attributes(id: 'grows', title: /cannot grow/, detail: 'linux-raid keeps its size', part: 2)
  end

  it 'lets swap and the start-up part give room before it refuses, and never leaves out what may be the system' do
    parts = source(['fat32', :startup, 500, 10, resizable(40, Evrel::Volume::FatResizer)], ['ext4', :data, 2000, 1400, resizable(1500)],
                   ['swap', :swap, 900, 0, resizable(1, Evrel::Volume::SwapResizer)])
    tight = planned(parts, 2200 * Disks::MIB, { 'way' => 'shrink' })
    expect([tight.valid?, *tight.places.map { |place| place.size < place.part.size }]).to eq([true, true, true, true])
    small = planned(parts, 1000 * Disks::MIB, { 'way' => 'shrink' })
    expect(small.problem.detail).to start_with('The files need 1.5 GB')
    expect([small, planned(parts, 1000 * Disks::MIB, { 'way' => 'as_in_image' })].map { |one| one.problem.detail })
      .to all(satisfy { |words| words !~ /leave out (?!swap)/ })
  end

  it 'leaves room where it was asked to, as an amount or as a share' do
    ['10%', 400_000_000].each do |free|
      expect(plan({ 'way' => 'grow', 'part' => 2, 'free' => free }).free_at_end).to be_between(399_000_000, 402_000_000)
    end
  end

  it 'names what cannot live on larger sectors, and makes anew what can be' do
    large = plan({ 'way' => 'shrink' }, 10**10, 4096)
    # An ext4 of this size has blocks of 1024 bytes.
    expect(large.problem.title).to eq('System cannot live on sectors of 4096 bytes')
    without = plan({ 'way' => 'shrink', 'leave_out' => [2] }, 10**10, 4096)
    expect(without.places.map(&:how)).to eq(%i[remake copy])
    expect(without.table).to have_attributes(sector: 4096, first_usable: 6)
    expect(facts(without)['sector'].detail).to include('Start-up (as FAT16) is made anew')
  end

  it 'gives new identities where it is asked to, the same for the same wish' do
    one, two, other = [{}, {}, { 'salt' => 'second' }].map { |more| plan({ 'identity' => 'renew', **more }) }
    expect(one.table.guid).to eq(two.table.guid)
    expect([one.table.guid, *one.table.partitions.map(&:guid)] & [image.table.guid, *image.table.partitions.map(&:guid),
                                                                  other.table.guid]).to be_empty
    expect(one.renewed.size).to eq(4)
  end

  it 'turns one kind of table into the other, with what that means' do
    mbr = plan({ 'table' => 'mbr' })
    expect(mbr.table.partitions.map(&:type)).to eq(%w[0xef 0x83 0x82])
    expect(facts(mbr)['table'].title).to eq('GPT becomes MBR')
    expect(facts(plan({ 'table' => 'mbr', 'way' => 'grow' }, 4 * (10**12)))['beyond'].title).to eq('1.8 TB cannot be used')
  end

  it 'answers a wish that makes no sense with the field that is wrong' do
    { [] => 'the wish', { 'way' => 'up' } => 'way', { 'way' => 'grow', 'part' => 9 } => 'part', { 'leave_out' => [1, 2, 3] } => 'leave_out',
      { 'way' => 'by_hand', 'parts' => { '2' => { 'size' => -1 } } } => 'parts.2.size',
      { 'free' => 'much' } => 'free' }.each do |wish, field|
      expect { plan(wish) }.to raise_error(Evrel::Refused, /wish/) { |error| expect(error.where.to_s).to eq(field).or eq('') }
    end
  end

  it 'clips clusters to the edges of a piece' do
    piece = Evrel::Layout::Piece.new(image_start: 70_000, target_start: 1_000_000, size: 100_000)
    data = Random.new(1).bytes(65_536)
    expect(piece.clusters).to eq(1..2)
    expect(piece.clip(1, data)).to eq([1_000_000, data[(70_000 - 65_536)..]])
    expect(piece.clip(2, data)).to eq([1_000_000 + 131_072 - 70_000, data[0, 170_000 - 131_072]])
    expect(piece.covers?(1)).to be(false)
  end
end
