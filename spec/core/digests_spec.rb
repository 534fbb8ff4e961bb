# frozen_string_literal: true

RSpec.describe Evrel::Image::Digests do
  def list(*indexes)
    writer = Evrel::Image::Digests::Writer.new(path = file("list-#{indexes.hash.abs}"))
    indexes.each { |index| writer.add(index, described_class.of(index.to_s)) }
    writer.close
    described_class.new(open_disk(path, logical_sector: 1), path)
  end

  # The clusters of a volume without digests: the same numbers.
  def used(*indexes)
    map = Struct.new(:indexes) { def each_cluster = indexes.each { |index| yield index, [] } }
    Evrel::Image::UsedClusters.new(map.new(indexes))
  end

  numbers = [0, 1, 2, 7, 8, 20, 21, 22, 23, 99]

  it 'gives the same clusters by number and by place in the list' do
    [list(*numbers), used(*numbers)].each do |digests|
      [[0, nil], [2, 22], [3, 7], [21, 1000], [100, nil]].each do |from, below|
        [1, 3, 100].each do |batch|
          by_number = digests.each_batch(from:, below:, batch:).to_a
          by_place = digests.each_span(from:, below:, batch:).map { |span| digests.slice(*span) }
          expect(by_place).to eq(by_number), "#{digests.class} from #{from} below #{below} by #{batch}"
          expect(by_number.flatten(1).map(&:first)).to eq(numbers.select { |one| one >= from && (below.nil? || one < below) })
        end
      end
    end
  end

  it 'finds one digest, or none' do
    digests = list(*numbers)
    expect(digests.of(21)).to eq(described_class.of('21'))
    expect([3, 98, 100].map { |index| digests.of(index) }).to eq([nil, nil, nil])
  end

  it 'notices a list that is out of order, within a batch and between two' do
    digests = list(1, 5, 3, 9)
    expect { digests.slice(0, 4) }.to raise_error(Evrel::Damaged, /out of order at cluster 3/)
    expect { digests.slice(2, 2) }.to raise_error(Evrel::Damaged, /out of order at cluster 3/)
  end
end
