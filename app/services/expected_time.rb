# frozen_string_literal: true

# How long a write will take, from what this bench has measured: never from a
# drive's advertised speed.
module ExpectedTime
  MEASURED = 20 # writes looked at

  module_function

  # @param bytes [Integer] to write
  # @param bus [String] of the target
  # @return [Hash, nil] low and high in seconds for writing and reading back,
  #   measured: number of writes behind it; nil where none was measured
  def range(bytes, bus)
    rates = rates(bus)
    return if rates.empty?

    # The spread of so few measurements is not known: leave a fifth on both sides.
    { low: (bytes / rates.max * 0.8).ceil, high: (bytes / rates.min * 1.2).ceil, measured: rates.size }
  end

  # Bytes per second of whole writes, read-back included.
  def rates(bus)
    Write.joins(:drive).where(state: 'done', drives: { bus: }).order(id: :desc).limit(MEASURED).filter_map do |write|
      # A write that was interrupted says nothing about speed.
      next if write.outcomes.to_a.any? { |outcome| outcome['resumed'] }

      bytes = write.progress.to_h['to_write'].to_f
      bytes / write.seconds if write.seconds&.positive? && bytes.positive?
    end
  end
  private_class_method :rates
end
