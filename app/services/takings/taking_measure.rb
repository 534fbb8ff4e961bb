# frozen_string_literal: true

# What was measured of a drive as it is now, and what follows from it for an
# image of chosen parts.
class TakingMeasure
  # Until images were taken here, what was measured on a sample is held to be true within this.
  UNKNOWN = [0.8, 1.6].freeze
  LEARNT = 8 # takings that count
  # Reading an image back and taking digests of it, in bytes of the disk per second, where a shelf was never read from.
  READING = 250_000_000.0

  # @param drive [Drive]
  # @param fingerprint [String, nil] of what is on it now
  def initialize(drive, fingerprint)
    @drive = drive
    @fingerprint = fingerprint
  end

  # @return [DriveTask, nil] the newest that fits, whatever its state
  def task = @task ||= @drive.drive_tasks.where(kind: 'measure', fingerprint: @fingerprint).order(id: :desc).first

  # @return [Hash, nil] as DriveWork::Measure gives it
  def result = task&.state == 'done' ? task.result : nil

  # @param parts [Array<Integer>, nil] numbers; nil for all of them
  # @param temporary [Boolean]
  # @param level [String]
  # @param shelf [Shelf, nil] from which it is read back, where it is checked
  # @return [TakingForecast, nil] nil where nothing was measured
  def forecast(shelf: nil, **how)
    return unless result

    used = used(**how)
    checking = shelf ? used / [shelf.read_speed, READING].find { |speed| speed.to_f.positive? } : 0
    TakingForecast.new(used:, stored: sum('stored', **how).map(&:round),
                       seconds: measured(**how).zip(learnt).map { |seconds, factor| ((seconds * factor) + checking).ceil })
  end

  # @return [Float, nil] seconds as they were measured on the sample, in the middle; nothing learnt from takings, nothing checked
  def raw(**how) = result && (measured(**how).sum / 2.0)

  # By how much earlier takings here took longer, or less, than was measured before them.
  # @return [(Float, Float)] the least and the greatest factor
  def learnt
    @learnt ||= begin
      factors = Taking.where(state: 'done', bench: Config.bench).where.not(expected: nil).order(id: :desc).limit(LEARNT).filter_map do |one|
        factor(one)
      end
      factors.size < 2 ? UNKNOWN : [factors.min * 0.95, factors.max * 1.05]
    end
  end

  private

  def factor(taking)
    raw = taking.summary.to_h['raw_seconds'].to_f
    taken = taking.summary.to_h['run_seconds'].to_f
    taken / raw if raw.positive? && taken.positive?
  end

  def measured(**how) = sum('seconds', **how).map { |seconds| seconds + result['survey'] }
  def chosen(parts) = result['parts'].select { |part| parts.nil? || parts.include?(part['number']) }

  def used(parts:, temporary:, **)
    left_out = temporary ? 0 : chosen(parts).flat_map { |part| part['temporary'] }.sum { |file| file['bytes'] }
    chosen(parts).sum { |part| part['used_bytes'] } - left_out
  end

  # @return [(Numeric, Numeric)] low and high
  def sum(name, parts:, temporary:, level:)
    taken = chosen(parts).map { |part| ((part['without'] unless temporary) || part['with']).fetch(level).fetch(name) }
    taken.empty? ? [0, 0] : taken.transpose.map(&:sum)
  end
end
