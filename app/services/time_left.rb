# frozen_string_literal: true

# The time that a running write will still take, as a range, from what was
# measured before it began and from how it goes.
module TimeLeft
  EARLIEST = 1.0 # seconds before anything is said

  module_function

  # @param write [Write]
  # @return [Hash, nil] low and high in seconds
  def of(write)
    progress = write.progress.to_h
    seconds, moved = progress.values_at('run_seconds', 'run_moved')
    return if write.state != 'running' || seconds.to_f < EARLIEST || moved.to_i.zero?

    done = progress['written'].to_i + progress['compared_bytes'].to_i
    range = estimate(write).left(progress['to_write'].to_i * 2, done:, moved:, seconds:)
    range && { low: range.low.round, high: range.high.round }
  end

  def estimate(write)
    past = write.expected.to_h['past'].to_a.map { |one| Evrel::Restore::Estimate::Past.new(**one.symbolize_keys) }
    Evrel::Restore::Estimate.new(past)
  end
end
