# frozen_string_literal: true

# The speed over a whole write in a bounded number of points: when it is full,
# neighbours become one, and from then on points come half as often.
class SpeedCurve
  POINTS = 240

  # @param points [Array<Integer>] bytes per second so far
  def initialize(points)
    @points = points
    @stride = 1
    @skip = 0
  end

  # @param speed [Integer] bytes per second
  # @return [Array<Integer>] the curve with it
  def add(speed)
    @skip = (@skip + 1) % @stride
    return @points unless speed.positive? && @skip.zero?

    @points += [speed]
    return @points if @points.size < POINTS

    @stride *= 2
    @points = @points.each_slice(2).map { |pair| pair.sum / pair.size }
  end
end
