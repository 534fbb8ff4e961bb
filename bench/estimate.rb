# frozen_string_literal: true

require_relative 'report'
require_relative 'simulated_write'

# How often a write ends within the range that was given, and how wide that was.
class EstimateBench
  # Earlier writes on the same drive and port, from none on.
  HISTORIES = [0, 1, 3, 8].freeze
  AT = [0.1, 0.25, 0.5, 0.75].freeze

  def initialize(count)
    @count = count
  end

  def run
    results = HISTORIES.to_h { |past| ["#{past} writes measured before", measured(past)] }
    results['between them'] = all(results.values)
    Report.new('estimate', writes: @count * HISTORIES.size, probability: Evrel::Restore::Estimate::PROBABILITY).give(results)
  end

  private

  def measured(past)
    random = Random.new(past)
    writes = Array.new(@count) { one(past, random) }
    { before: before(writes), **AT.to_h do |share|
      [:"at_#{(share * 100).round}_percent", figures(writes.map do |write|
        write[share]
      end)]
    end }.compact
  end

  def before(writes) = writes.first[:before] && figures(writes.map { |write| write[:before] })

  def one(past, random)
    drive = SimulatedWrite::Drive.made(random)
    estimate = Evrel::Restore::Estimate.new(Array.new(past) { SimulatedWrite.new(drive, size(random), random).past })
    write = SimulatedWrite.new(drive, size(random), random)
    AT.to_h { |share| [share, judged(write, share, estimate)] }
      .merge(before: (outcome(estimate.whole(write.work), 0.0, write.seconds) if past.positive?))
  end

  def size(random) = Math.exp(random.rand(Math.log(4e9)..Math.log(1.2e11))).to_i

  def judged(write, share, estimate)
    seconds, done = write.at(share)
    from, before = share > 0.5 ? write.at(0.5) : [0.0, 0.0]
    outcome(estimate.left(write.work, done:, moved: done - before, seconds: seconds - from), seconds, write.seconds)
  end

  # Width as it is read off the page: of the whole time, from its middle.
  def outcome(range, elapsed, actual)
    low, high = [range.low, range.high].map { |left| elapsed + left }
    { hit: actual.between?(low, high), width: (high - low) / (high + low) }
  end

  def figures(outcomes)
    widths = outcomes.map { |one| one[:width] }.sort
    { ended_in_range: outcomes.count { |one| one[:hit] }.fdiv(outcomes.size).round(3), half_width: widths[widths.size / 2].round(3),
      widest: widths.last.round(3) }
  end

  def all(results)
    at = results.map { |one| one[:at_10_percent] }
    { at_10_percent: { ended_in_range: (at.sum { |one| one[:ended_in_range] } / at.size).round(3), widest: at.map do |one|
      one[:widest]
    end.max } }
  end
end
