# frozen_string_literal: true

RSpec.describe Evrel::Digesters, :in_memory do
  subject(:digesters) { described_class.new(strength: 2) }

  let(:path) { file('bytes') }
  let(:bytes) { Random.new(7).bytes(20 * length) }
  let(:length) { Evrel::Image::CLUSTER }
  let(:offsets) { Array.new(20) { |place| place * length } }

  before { File.binwrite(path, bytes) }
  after { digesters.close }

  it 'gives the digests of what stands in files, to many who ask at the same time' do
    wanted = offsets.map { |at| Evrel::Image::Digests.of(bytes.byteslice(at, length)) }
    got = Array.new(12) { |turn| Thread.new { File.open(path) { |io| digesters.of(io, offsets.rotate(turn), length) } } }.map(&:value)
    expect(got.each_with_index.map { |list, turn| list.rotate(-turn) }).to all(eq(wanted))
  end

  it 'gives nothing for what cannot be read, nor for what ends early' do
    File.open(path) do |io|
      last = bytes.bytesize - length
      expect(digesters.of(io, [last, last + 1, bytes.bytesize], length)).to match([an_instance_of(String), nil, nil])
    end
    File.open(path, 'a') { |io| expect(digesters.of(io, [0], length)).to eq([nil]) }
  end

  it 'serves on when whoever asked first has ended, and says so where its processes were ended from outside' do
    before = children
    digesters
    Thread.new { File.open(path) { |io| digesters.of(io, [0], length) } }.join
    File.open(path) do |io|
      expect(digesters.of(io, [0], length)).to all(be_a(String))
      (children - before).each { |pid| Process.kill(:KILL, pid) }
      expect { 4.times { digesters.of(io, offsets, length) } }.to raise_error(Evrel::Unreadable, /ended from outside/)
    end
  end

  it 'leaves no process behind' do
    before = children
    File.open(path) { |io| digesters.of(io, offsets, length) }
    expect((children - before).size).to eq(2)
    digesters.close
    expect(children).to eq(before)
  end

  # @return [Array<Integer>] process ids: the fourth field of /proc/PID/stat is the parent, proc(5)
  def children
    Dir['/proc/[0-9]*/stat'].filter_map do |stat|
      stat[/\d+/].to_i if File.read(stat)[/\) \S (\d+)/, 1].to_i == Process.pid
    rescue SystemCallError
      nil
    end.sort
  end
end
