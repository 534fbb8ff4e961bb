# frozen_string_literal: true

# What everything promises that gives an image's contents cluster by cluster:
# the kinds of image, and the file in which a part is changed before it is written.
# The including group defines `source`, and `plain`, the path of a raw file with the same contents.
RSpec.shared_examples 'a cluster source' do
  let(:cluster) { Evrel::Image::CLUSTER }
  let(:count) { (File.size(plain) + cluster - 1) / cluster }
  # Some that hold something, some that hold nothing, the last one.
  let(:asked) { [0, 1, 2, 15, 16, 17, count / 3, (count / 3) + 1, count / 2, count - 2, count - 1].uniq.select { |index| index < count } }

  # The last cluster may end with the disk, or be filled up with zeros.
  def true_bytes(index) = File.binread(plain, cluster, index * cluster)
  def beginning(data, index) = data.byteslice(0, true_bytes(index).bytesize)

  it 'gives any cluster whole, the last one at least to the end' do
    asked.each { |index| expect(beginning(source.cluster(index), index) == true_bytes(index)).to be(true), "cluster #{index}" }
    filled = source.cluster(count - 1).byteslice(true_bytes(count - 1).bytesize..)
    expect(filled.delete("\0")).to be_empty
  end

  it 'gives several at once, in their order, with the same bytes' do
    given = []
    source.each_cluster(asked) { |index, data| given << [index, data.dup] }
    expect(given.map(&:first)).to eq(asked)
    given.each { |index, data| expect(beginning(data, index) == true_bytes(index)).to be(true), "cluster #{index}" }
  end

  it 'gives the same to several threads at a time' do
    alone = asked.map { |index| source.cluster(index) }
    threads = Array.new(4) { Thread.new { asked.map { |index| source.cluster(index) } } }
    expect(threads.map { |thread| thread.value == alone }).to all(be(true))
  end

  it 'says that a cluster behind the end is not its own, instead of giving zeros' do
    behind = (source.disk.size + cluster - 1) / cluster
    expect { source.cluster(behind) }.to raise_error(Evrel::OutOfRange)
    expect { |block| source.each_cluster([behind], &block) }.to yield_with_args(behind, nil)
  end

  it 'says whether other processes can read it too' do
    expect([true, false]).to include(source.fork_safe?)
  end
end
