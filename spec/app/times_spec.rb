# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'Times' do
  def written(seconds, bytes, **fields)
    Write.create!(docket:, technician: Technician.first, source: image, drive: drive(Requests::REPLACEMENT), state: 'done', speeds: [],
                  progress: { to_write: bytes }, started_at: Time.now - seconds, finished_at: Time.now, **fields)
  end

  def order(id, kind, **more) = Evrel::Restore::Order.new(id:, kind:, **more)
  def outcome(id, kind, **more) = Evrel::Restore::Outcome.new(id:, kind:, **more)

  describe ExpectedTime do
    def expected(bus: nil, port: '3')
      target = drive(Requests::REPLACEMENT)
      target.bus = bus if bus
      orders = [order('check', :check), order('part-1', :part, bytes: 10**9), order('read-back', :read_back, bytes: 10**9)]
      described_class.new(image, target, port).of(orders)
    end

    it 'says nothing where nothing was measured over such a port' do
      expect(expected).to be_nil
      written(10, 10**9)
      expect(expected(bus: 'USB')).to be_nil
    end

    it 'is a range around what was measured, the wider the more that differed' do
      2.times { written(10, 10**9) }
      narrow = expected
      expect(narrow).to have_attributes(measured: 2, low: be_between(7, 9), high: be_between(11, 13))
      2.times { written(20, 10**9) }
      expect(expected).to have_attributes(measured: 4, low: be < 9, high: be > 20)
    end

    it 'says of each order what it took before, by its amount where it has one' do
      outcomes = [outcome('check', :check, seconds: 0.2), outcome('part-1', :part, seconds: 4.0, bytes: 2 * (10**9)),
                  outcome('read-back', :read_back, seconds: 1.0, bytes: 2 * (10**9))]
      written(6, 2 * (10**9), outcomes:)
      expect(expected.orders).to eq('check' => 0.2, 'part-1' => 2.0, 'read-back' => 0.5)
    end

    it 'takes what was zero, and needed no writing, for no speed' do
      outcomes = [outcome('part-1', :part, seconds: 1.0, bytes: 10**9, moved: 10**8),
                  outcome('read-back', :read_back, seconds: 5.0, bytes: 10**9)]
      2.times { written(6, 10**9, outcomes:) }
      expect(expected.orders).to eq('part-1' => 10.0, 'read-back' => 5.0)
      expect(expected.low).to be_between(8, 11)
      expect(expected.high).to be_between(11, 14)
    end

    it 'prefers writes over the same port where there are enough of them' do
      3.times { written(10, 10**9, port: '3') }
      3.times { written(50, 10**9, port: '4') }
      expect(expected(port: '3').high).to be < 14
      expect(expected(port: '4').low).to be > 30
    end

    it 'does not learn from a write that was interrupted, or that spared most of it' do
      written(5000, 10**9, outcomes: [outcome('part-1', :part, resumed: true)])
      written(1, 10**9, summary: { spared: 9 * (10**8) })
      expect(expected).to be_nil
    end
  end

  describe TimeLeft do
    def left(progress, state: 'running', **about) = described_class.of(Write.new(state:, progress:, **about))

    it 'is a range around what this run is doing, read-back included' do
      range = left({ 'to_write' => 1000, 'written' => 500, 'compared_bytes' => 0, 'run_seconds' => 10.0, 'run_moved' => 500 })
      # Ten seconds more of writing, and reading back, which is usually faster.
      expect(range[:low]).to be_between(15, 21)
      expect(range[:high]).to be_between(25, 32)
    end

    it 'goes by the present run after an interruption' do
      range = left({ 'to_write' => 1000, 'written' => 900, 'compared_bytes' => 0, 'run_seconds' => 10.0, 'run_moved' => 100 })
      expect(range[:high]).to be_between(90, 130)
    end

    it 'is narrower where such writes were measured before' do
      now = { 'to_write' => 1000, 'written' => 200, 'compared_bytes' => 0, 'run_seconds' => 10.0, 'run_moved' => 200 }
      past = Array.new(4) { { 'work' => 2000, 'seconds' => 100.0, 'speeds' => [20] * 40 } }
      alone, with = [left(now), left(now, expected: WriteTime.new(past:))].map { |range| range[:high] - range[:low] }
      expect(with).to be < alone * 0.6
    end

    it 'adds what making parts ready and growing took before, and takes off what has passed of it' do
      orders = { 'check' => :check, 'prepare-2' => :prepare, 'clear' => :clear, 'part-1' => :part, 'part-2' => :part,
                 'prepare-3' => :prepare, 'read-back' => :read_back, 'table' => :table }.map { |id, kind| order(id, kind) }
      expected = WriteTime.new(past: Array.new(4) { { 'work' => 2000, 'seconds' => 100.0, 'speeds' => [20] * 40 } },
                               orders: { 'prepare-2' => 30.0, 'prepare-3' => 14.0, 'part-2' => 40.0 })
      said = lambda { |order, **more|
        left({ 'order' => order, 'kind' => 'prepare', 'to_write' => 1000, **more.transform_keys(&:to_s) }, expected:, orders:)
      }
      preparing = said.call('prepare-2', order_seconds: 10)
      expect(preparing[:low]).to be_between(100, 120) # 100 and 34 seconds
      expect(preparing[:high]).to be_between(155, 175)
      expect(said.call('prepare-3', written: 1000, compared_bytes: 1000, run_seconds: 30.0, run_moved: 1000, order_seconds: 0))
        .to eq(low: 10, high: 20)
    end

    it 'is not said before something was measured, nor afterwards' do
      expect(left({ 'run_seconds' => 0.2, 'run_moved' => 5 })).to be_nil
      expect(left({ 'run_seconds' => 9, 'run_moved' => 0 })).to be_nil
      expect(left({ 'run_seconds' => 9, 'run_moved' => 5, 'to_write' => 9 }, state: 'done')).to be_nil
    end
  end

  describe WriteRun do
    def told(run, order, kind, written, earlier: 0)
      run.send(:record, Evrel::Restore::Progress.new(order:, kind:, written:, earlier:, done: 0, to_write: 10**9, speed: 1))
      @write.reload.progress
    end

    it 'counts for its speed neither making parts ready nor what an earlier run had written' do
      @write = written(0, 10**9, state: 'running')
      run = described_class.new(@write)
      told(run, 'prepare-2', :prepare, 0)
      sleep 1.1
      expect(told(run, 'part-1', :part, 4 * (10**8), earlier: 4 * (10**8))).to include('run_seconds' => be < 0.5, 'run_moved' => 0)
      expect(told(run, 'part-2', :part, 5 * (10**8), earlier: 4 * (10**8))).to include('run_seconds' => be < 0.5, 'run_moved' => 10**8)
    end
  end

  it 'keeps the whole curve of a long write in a bounded number of points' do
    curve = SpeedCurve.new([])
    points = Array.new(2000) { |index| curve.add(1000 + index) }.last
    expect(points.size).to be_between(100, SpeedCurve::POINTS)
    expect(points.first).to be < 1020
    expect(points.last).to be > 2900
    expect(points).to eq(points.sort)
  end

  it 'are said in words' do
    expect([5, 89, 90, 3600 * 3, 86_400 * 9].map { |seconds| Words.span(seconds) }).to eq(['5 s', '89 s', '2 min', '3 h', '9 days'])
    expect(Evrel::Units.bytes(480_103_981_056)).to eq('480.1 GB')
    expect([0, 999, 1500, 312 * (10**6), 4 * (10**12)].map do |size|
      Evrel::Units.bytes(size)
    end).to eq(['0 B', '999 B', '2 kB', '312 MB', '4.0 TB'])
    expect(Evrel::Units.count(1_204_882)).to eq('1,204,882')
  end
end
