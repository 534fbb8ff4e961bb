# frozen_string_literal: true

require_relative '../../bench/simulated_write'

RSpec.describe Evrel::Restore::Estimate do
  def past(seconds, work: 1000, speeds: []) = described_class::Past.new(work:, seconds:, speeds:)
  def width(range) = (range.high - range.low) / (range.high + range.low)

  it 'says nothing before anything was measured' do
    estimate = described_class.new([past(0.0), past(5.0, work: 0)])
    expect(estimate.whole(1000)).to be_nil
    expect(estimate.left(1000, done: 0, moved: 0, seconds: 9.0)).to be_nil
    expect(estimate.left(0, done: 0, moved: 1, seconds: 9.0)).to be_nil
  end

  it 'goes by the amount, and is the wider the more that earlier writes differ' do
    alike = described_class.new([past(10.0), past(10.0), past(10.0)]).whole(2000)
    expect([alike.low, alike.high]).to match([be_between(16, 19), be_between(21, 25)])
    expect(width(described_class.new([past(8.0), past(10.0), past(13.0)]).whole(2000))).to be > width(alike) * 1.5
    expect(width(described_class.new([past(10.0)]).whole(2000))).to be > width(alike) * 1.5
  end

  # @return [Float] middle of the range for what is left, as a multiple of what it will be at the speed until then
  def middle(done, slower)
    estimate = described_class.new(Array.new(5) { past(100.0, speeds: [10] * 40) })
    range = estimate.left(1000, done:, moved: done, seconds: done * 0.1 * slower)
    Math.sqrt(range.low * range.high) / ((1000 - done) * 0.1 * slower)
  end

  it 'does not hold on to earlier writes that this one is nothing like' do
    expect([100, 250, 450].map { |done| middle(done, 3) }).to all(be_between(0.85, 1.15))
  end

  it 'knows from earlier writes that reading back is faster, or that a drive slows down' do
    slowing = Array.new(3) { past(100.0, speeds: ([30] * 25) + ([10] * 75)) }
    estimate = described_class.new(slowing)
    # Half the work took a quarter of the time.
    range = estimate.left(1000, done: 400, moved: 400, seconds: 22.0)
    expect(range.high).to be > 75
  end

  it 'holds what it says in nine of ten writes whose speed varies and drifts, and is no wider than a quarter' do
    random = Random.new(11)
    outcomes = Array.new(60) do
      drive = SimulatedWrite::Drive.made(random)
      estimate = described_class.new(Array.new(random.rand(0..6)) { SimulatedWrite.new(drive, 6 * (10**9), random).past })
      write = SimulatedWrite.new(drive, 20 * (10**9), random)
      seconds, done = write.at(0.1)
      range = estimate.left(write.work, done:, moved: done, seconds:)
      [(write.seconds - seconds).between?(range.low, range.high), (range.high - range.low) / (range.high + range.low + (2 * seconds))]
    end
    expect(outcomes.count(&:first)).to be >= 54
    expect(outcomes.map(&:last).max).to be < 0.25
  end
end
