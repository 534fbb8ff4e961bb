# frozen_string_literal: true

RSpec.describe Evrel::Helpers, :in_memory do
  subject(:helpers) { described_class.new(strength: 2) }

  let(:path) { file('bytes') }
  let(:bytes) { Random.new(7).bytes(20 * length) }
  let(:length) { Evrel::Image::CLUSTER }
  let(:offsets) { Array.new(20) { |place| place * length } }

  before { File.binwrite(path, bytes) }
  after { helpers.close }

  it 'gives the digests of what stands in files, to many who ask at the same time' do
    wanted = offsets.map { |at| Evrel::Image::Digests.of(bytes.byteslice(at, length)) }
    got = Array.new(12) { |turn| Thread.new { File.open(path) { |io| helpers.digests(io, offsets.rotate(turn), length) } } }.map(&:value)
    expect(got.each_with_index.map { |list, turn| list.rotate(-turn) }).to all(eq(wanted))
  end

  it 'gives nothing for what cannot be read, nor for what ends early' do
    File.open(path) do |io|
      last = bytes.bytesize - length
      expect(helpers.digests(io, [last, last + 1, bytes.bytesize], length)).to match([an_instance_of(String), nil, nil])
    end
    File.open(path, 'a') { |io| expect(helpers.digests(io, [0], length)).to eq([nil]) }
  end

  it 'writes what lies in memory into files, and says where not all of it was taken' do
    memory = Evrel::Linux::SharedMemory.new(3 * length).tap { |shared| shared.write(0, bytes.byteslice(0, 3 * length)) }
    writers = described_class.new(memory:, strength: 2)
    paths = Array.new(12) { |number| file("target#{number}").tap { |path| File.binwrite(path, '') } }
    runs = [[length, 0, length], [4096, 2 * length, 512], [5 * length, length, 2 * length]]
    wrote = paths.map { |path| Thread.new { File.open(path, 'r+b') { |io| writers.write(io, runs) } } }.map(&:value)
    expect(wrote).to all(be(true))
    wanted = "\0".b * (7 * length)
    runs.each { |offset, at, size| wanted[offset, size] = bytes.byteslice(at, size) }
    expect(paths.map { |path| File.binread(path) }).to all(eq(wanted))
    expect(File.open('/dev/full', 'r+b') { |io| writers.write(io, runs) }).to be(false)
    expect(File.open(paths.first, 'rb') { |io| writers.write(io, runs) }).to be(false)
  ensure
    writers&.close
    memory&.close
  end

  it 'serves on when whoever asked first has ended, and says so where its processes were ended from outside' do
    before = children
    helpers
    Thread.new { File.open(path) { |io| helpers.digests(io, [0], length) } }.join
    File.open(path) do |io|
      expect(helpers.digests(io, [0], length)).to all(be_a(String))
      (children - before).each { |pid| Process.kill(:KILL, pid) }
      expect { 4.times { helpers.digests(io, offsets, length) } }.to raise_error(Evrel::Unreadable, /ended from outside/)
    end
  end

  it 'leaves no process behind' do
    before = children
    File.open(path) { |io| helpers.digests(io, offsets, length) }
    expect((children - before).size).to eq(2)
    helpers.close
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
