# frozen_string_literal: true

# The time that a running write will still take, as a range, from its own speed
# so far: what is left to write, and what is left to read back.
module TimeLeft
  # How far the speed of the rest may be from what was seen.
  SLOWER = 0.8
  FASTER = 1.15
  EARLIEST = 1.0 # seconds of writing before anything is said

  module_function

  # @param write [Write]
  # @return [Hash, nil] low and high in seconds
  def of(write)
    return unless write.state == 'running' && write.started_at

    progress = write.progress.to_h
    elapsed = Time.now - write.started_at
    moved = progress['written'].to_i + progress['compared_bytes'].to_i
    return if elapsed < EARLIEST || moved.zero?

    rate = moved / elapsed
    left = (progress['to_write'].to_i * 2) - moved
    { low: (left / (rate * FASTER)).round, high: (left / (rate * SLOWER)).round }
  end
end
