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
    progress = write.progress.to_h
    elapsed = progress['run_seconds'].to_f
    moved = progress['run_moved'].to_i
    return if write.state != 'running' || elapsed < EARLIEST || moved.zero?

    rate = moved / elapsed
    left = (progress['to_write'].to_i * 2) - progress['written'].to_i - progress['compared_bytes'].to_i
    { low: (left / (rate * FASTER)).round, high: (left / (rate * SLOWER)).round }
  end
end
