# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'Times' do
  def written(seconds, bytes, **fields)
    Write.create!(docket:, technician: Technician.first, image:, drive: drive(Requests::REPLACEMENT), state: 'done', speeds: [],
                  progress: { to_write: bytes }, started_at: Time.now - seconds, finished_at: Time.now, **fields)
  end

  describe ExpectedTime do
    it 'says nothing where nothing was measured' do
      expect(described_class.range(10**9, 'SATA')).to be_nil
    end

    it 'covers the slowest and the fastest write over the same bus' do
      written(10, 10**9)
      written(20, 10**9)
      expect(described_class.range(2 * (10**9), 'SATA')).to include(measured: 2, low: be <= 20, high: be >= 40)
      expect(described_class.range(10**9, 'USB')).to be_nil
    end

    it 'does not learn from a write that was interrupted' do
      written(5000, 10**9, outcomes: [{ id: 'part-1', resumed: true }])
      expect(described_class.range(10**9, 'SATA')).to be_nil
    end
  end

  describe TimeLeft do
    def left(progress, state: 'running') = described_class.of(Write.new(state:, progress:))

    it 'is a range around what this run is doing, read-back included' do
      range = left({ 'to_write' => 1000, 'written' => 500, 'compared_bytes' => 0, 'run_seconds' => 10.0, 'run_moved' => 500 })
      expect(range[:low]).to be < 30
      expect(range[:high]).to be > 30
    end

    it 'goes by the present run after an interruption' do
      range = left({ 'to_write' => 1000, 'written' => 900, 'compared_bytes' => 0, 'run_seconds' => 10.0, 'run_moved' => 100 })
      expect(range[:high]).to be_between(110, 150)
    end

    it 'is not said before something was measured, nor afterwards' do
      expect(left({ 'run_seconds' => 0.2, 'run_moved' => 5 })).to be_nil
      expect(left({ 'run_seconds' => 9, 'run_moved' => 0 })).to be_nil
      expect(left({ 'run_seconds' => 9, 'run_moved' => 5, 'to_write' => 9 }, state: 'done')).to be_nil
    end
  end

  it 'keeps the whole curve of a long write in a bounded number of points' do
    job = WriteJob.new(1)
    write = Write.new(speeds: [])
    job.instance_variable_set(:@write, write)
    2000.times { |index| write.speeds = job.send(:speeds, Evrel::Restore::Progress.new(speed: 1000 + index)) }
    expect(write.speeds.size).to be_between(100, WriteJob.points)
    expect(write.speeds.first).to be < 1020
    expect(write.speeds.last).to be > 2900
    expect(write.speeds).to eq(write.speeds.sort)
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
