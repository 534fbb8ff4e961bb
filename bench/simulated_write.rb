# frozen_string_literal: true

# A write whose speed varies and drifts, as drives and ports do: noise that
# lasts a while, a cache that fills, a drift over the whole, and a read-back at
# a speed of its own.
class SimulatedWrite
  STEP = 0.5 # seconds

  # What a drive on its port is like; writes on it differ by a tenth.
  Drive = Struct.new(:rate, :noise, :drift, :cache, :cached, :reading) do
    def self.made(random)
      new(Math.exp(random.rand(Math.log(2e7)..Math.log(4e8))), random.rand(0.03..0.15), random.rand(-0.25..0.25), random.rand(0.0..0.08),
          random.rand(1.0..2.0), random.rand(1.1..2.5))
    end
  end

  attr_reader :work, :samples

  # @param drive [Drive]
  # @param bytes [Integer] to write, and to read back
  # @param random [Random]
  def initialize(drive, bytes, random)
    @drive = drive
    @bytes = bytes
    @work = bytes * 2
    @random = random
    @rate = drive.rate * Math.exp(normal * 0.07)
    @drift = drive.drift + (normal * 0.06)
    run
  end

  # @return [Float] seconds
  def seconds = @samples.last.first

  # @return [Array<(Float, Float)>] seconds and bytes done, when a share of the work was done
  def at(share) = @samples.find { |_, done| done >= work * share }

  def past
    Evrel::Restore::Estimate::Past.thinned(work:, seconds:, speeds: @speeds, most: 120)
  end

  private

  def run
    @samples = [[0.0, 0.0]]
    @speeds = []
    noise = 0.0
    until @samples.last.last >= work
      noise = (0.95 * noise) + (normal * @drive.noise * Math.sqrt(1 - (0.95**2)))
      speed = speed_at(@samples.last.last) * Math.exp(noise)
      step = [STEP, (work - @samples.last.last) / speed].min
      @speeds << speed
      @samples << [@samples.last.first + step, @samples.last.last + (speed * step) + 1e-3]
    end
  end

  def speed_at(done)
    within = (done % @bytes) / @bytes
    speed = @rate * Math.exp(@drift * (within - 0.5))
    return speed * @drive.reading if done >= @bytes

    within < @drive.cache ? speed * @drive.cached : speed
  end

  # Box and Muller.
  def normal = Math.sqrt(-2 * Math.log(1 - @random.rand)) * Math.cos(2 * Math::PI * @random.rand)
end
