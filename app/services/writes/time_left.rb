# frozen_string_literal: true

# The time that a running write will still take, as a range, from what was
# measured before it began and from how it goes.
module TimeLeft
  EARLIEST = 1.0 # seconds before anything is said
  # What resizing took before and takes now are seldom nearer than this, as a factor.
  RESIZING = 1.4

  module_function

  # @param write [Write]
  # @return [Hash, nil] low and high in seconds
  def of(write)
    range = write.state == 'running' && moving(write) or return
    rest = resizing(write)
    { low: (range.low + (rest / RESIZING)).round, high: (range.high + (rest * RESIZING)).round }
  end

  # What is left of writing and reading back.
  def moving(write)
    progress = write.progress.to_h
    seconds, moved = progress.values_at('run_seconds', 'run_moved')
    work = progress['to_write'].to_i * 2
    return estimate(write).whole(work) if moved.to_i.zero? && progress['kind'] == 'prepare'
    return if seconds.to_f < EARLIEST || moved.to_i.zero?

    estimate(write).left(work, done: progress['written'].to_i + progress['compared_bytes'].to_i, moved:, seconds:)
  end

  # Seconds that making parts ready and growing them will still take, by what that took before: 0 where nobody measured it.
  def resizing(write)
    progress = write.progress.to_h
    orders = write.orders.to_a
    at = orders.index { |order| order.id == progress['order'] } or return 0.0
    expected = write.expected&.orders.to_h
    to_come = orders.drop(at + 1).select(&:prepares?).sum { |order| expected[order.id].to_f }
    return to_come unless orders[at].prepares?

    to_come + [expected[orders[at].id].to_f - progress['order_seconds'].to_f, 0.0].max
  end

  def estimate(write)
    Evrel::Restore::Estimate.new(write.expected&.past.to_a)
  end
end
