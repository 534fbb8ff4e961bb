# frozen_string_literal: true

RSpec.describe Evrel::Layout do
  let(:image) { Evrel::Image.open(captured(three_parts)) }

  it 'keeps every part where it was, on the same or a larger disk' do
    plan = described_class.as_in_image(image, 4 * (10**9) / 512 * 512, 512)
    expect(plan.pieces.map { |piece| [piece.image_start, piece.size] }).to eq(image.table.partitions.map { |part| [part.start, part.size] })
    expect(plan.pieces).to all(have_attributes(target_start: satisfy { |start| (start % Disks::MIB).zero? }))
    expect(plan.free_at_end).to be_within(Disks::MIB).of((4 * (10**9)) - (497 * Disks::MIB))
  end

  it 'is the same plan for the same wish, and another for another disk' do
    plans = [10**9, 10**9, 2 * (10**9)].map { |size| described_class.as_in_image(image, size / 512 * 512, 512).digest }
    expect(plans[0]).to eq(plans[1])
    expect(plans[0]).not_to eq(plans[2])
  end

  it 'refuses a smaller disk and another sector size with the reason' do
    expect { described_class.as_in_image(image, 400 * Disks::MIB, 512) }.to raise_error(Evrel::DoesNotFit, /partition \d ends \d+ bytes/)
    expect { described_class.as_in_image(image, (10**10) / 4096 * 4096, 4096) }.to raise_error(Evrel::DoesNotFit, /sectors of 512 bytes/)
  end

  it 'says what it means' do
    facts = described_class.as_in_image(image, 4 * (10**9) / 512 * 512, 512).facts(4096).to_h { |fact| [fact.id, fact] }
    expect(facts['fits'].state).to eq(:ok)
    expect(facts['alignment'].title).to eq('Aligned to 1 MiB')
    expect(facts['room']).to have_attributes(state: :ask, title: /3\.5 GB stay unallocated/)
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
