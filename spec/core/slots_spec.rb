# frozen_string_literal: true

RSpec.describe Evrel::Restore::Slots do
  subject(:slots) { described_class.new(4) }

  let(:length) { Evrel::Image::CLUSTER }
  let(:clusters) { Array.new(5) { |number| Random.new(number).bytes(length) } }

  after { slots.close }

  it 'holds clusters behind each other until the last has taken them' do
    held = clusters.first(4).map { |bytes| slots.put(bytes).wanted_by(2) }
    expect(held.each_cons(2)).to all(satisfy { |one, other| one.before?(other) })
    expect(described_class::Piece.new(held[1], 3).to_s).to eq(clusters[1, 3].join)
    expect(slots.put(clusters[4])).to be_nil
    held.each(&:give_back)
    expect(slots.put(clusters[4])).to be_nil
    expect(held.map(&:read)).to eq(clusters.first(4))
    held[2].give_back
    expect(slots.put(clusters[4])).to be(held[2])
  end

  it 'keeps zeros once for all, and the short end of a disk as it is' do
    zeros = Array.new(9) { slots.put("\0".b * length) }
    expect(zeros).to all(be(described_class::ZEROS))
    expect(described_class::Piece.new(zeros.first, 1)).to have_attributes(zeros?: true, place: nil, bytesize: length)
    short = +'end'
    piece = described_class::Piece.new(slots.put(short), 1)
    short.replace('gone')
    expect(piece).to have_attributes(zeros?: false, place: nil, bytesize: 3, to_s: 'end')
  end
end
