# frozen_string_literal: true

# How long a write will take, from what this bench has measured: never from a
# drive's advertised speed.
class ExpectedTime
  MEASURED = 8 # writes that count
  ENOUGH = 3   # of the most alike, before others are looked at
  SLACK = 60   # seconds beside its orders that a write may take
  POINTS = 40  # of their curves that are kept

  # @return [Array<Evrel::Restore::Estimate::Past>] of the last writes here, whatever they went from and to
  def self.anywhere = new(nil, nil, nil).past

  # @param source [Restorable]
  # @param drive [Drive, nil] any
  # @param port [String, nil] in which it is
  def initialize(source, drive, port)
    @source = source
    @drive = drive
    @port = port
  end

  # @param orders [Array<Evrel::Restore::Order>] of the write
  # @return [WriteTime, nil] for all of it; nil where none was measured
  def of(orders)
    range = Evrel::Restore::Estimate.new(past).whole(orders.sum { |order| order.writes? ? order.bytes * 2 : 0 }) or return
    resizing = orders.select(&:prepares?).sum { |order| seconds(order).to_f }
    WriteTime.new(low: (range.low + (resizing / TimeLeft::RESIZING)).ceil, high: (range.high + (resizing * TimeLeft::RESIZING)).ceil,
                  measured: range.measured, probability: Evrel::Restore::Estimate::PROBABILITY,
                  past:, orders: orders.to_h { |order| [order.id, seconds(order)] }.compact)
  end

  # @return [Array<Evrel::Restore::Estimate::Past>]
  def past
    @past ||= writes.map do |write|
      work = moved(write) + write.progress.to_h['to_write'].to_i
      Evrel::Restore::Estimate::Past.thinned(work:, seconds: took(write) - resizing(write), speeds: write.speeds.to_a, most: POINTS)
    end
  end

  private

  # The most alike: from the same shelf over the same port; over the same port; over the same bus.
  def writes
    @writes ||= begin
      port = known.select { |write| write.port == @port }
      alike = port.select { |write| write.source.source_place == @source.source_place }
      ([alike, port].find { |some| some.size >= ENOUGH } || known).first(MEASURED)
    end
  end

  # A write that was interrupted says nothing about speed, nor one that spared most of the target.
  def known
    scope = @drive ? Write.where(drives: { bus: @drive.bus }) : Write
    @known ||= scope.joins(:drive).preload(:source).where(state: 'done').order(id: :desc).limit(40)
                    .select { |write| write.seconds && took(write).positive? && whole?(write) }
  end

  def whole?(write)
    write.progress.to_h['to_write'].to_i.positive? && write.summary.to_h['spared'].to_i.zero? &&
      write.outcomes.to_a.none?(&:resumed)
  end

  # From the first to the last, or as its orders were measured, where the clock was set meanwhile.
  def took(write)
    measured = write.outcomes.to_a.sum { |one| one.seconds.to_f }
    measured.zero? || write.seconds.between?(measured, (measured * 1.5) + SLACK) ? write.seconds : measured
  end

  # What is zero and went to an empty drive was read back, but never written: it says nothing about the speed of writing.
  def moved(write)
    parts = write.outcomes.to_a.select { |one| one.kind == :part }
    parts.any? ? parts.sum { |one| bytes(one) } : write.progress.to_h['to_write'].to_i
  end

  def bytes(outcome) = (outcome.moved if outcome.kind == :part) || outcome.bytes.to_i

  # What a write took for making parts ready and growing them says nothing about its speed.
  def resizing(write) = write.outcomes.to_a.select { |one| one.kind == :prepare }.sum { |one| one.seconds.to_f }

  # What moves bytes goes by the speed of its kind; the rest takes what it took.
  def seconds(order)
    of_kind = writes.flat_map { |write| write.outcomes.to_a.select { |one| one.kind == order.kind } }
    return if of_kind.empty?
    return median(of_kind.map(&:seconds)) unless order.bytes

    rates = of_kind.filter_map { |one| bytes(one) / one.seconds if bytes(one).positive? && one.seconds.positive? }
    (order.bytes / median(rates)).round(2) if rates.any?
  end

  def median(values) = values.sort[values.size / 2].round(2)
end
