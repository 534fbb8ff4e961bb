# frozen_string_literal: true

# The taking of an image as the pages see it.
module TakingView
  EARLIEST = 1.0 # seconds before anything is said of the time left
  BACK = { low: 0.9, high: 1.2 }.freeze

  module_function

  # @param taking [Taking]
  # @return [Hash]
  def of(taking)
    { id: taking.id, state: taking.state, docket_id: taking.docket_id, drive: drive(taking), shelf: taking.shelf&.name,
      **wished(taking), **course(taking), image: image(taking), summary: taking.summary, by: taking.technician.short_name,
      at: taking.created_at.iso8601, started_at: taking.started_at&.iso8601, finished_at: taking.finished_at&.iso8601 }
  end

  def wished(taking)
    { folder: taking.folder, note: taking.note, parts: taking.parts, on_drive: taking.on_drive || [], temporary: taking.temporary,
      level: taking.level, checked: taking.checked, salvage: taking.salvage, locked: taking.locked, retries: taking.retries,
      minutes: taking.minutes, onto: onto(taking), expected: taking.expected&.to_h }
  end

  def onto(taking) = taking.onto && { id: taking.onto.id, taken_at: taking.onto.taken_at.iso8601 }

  def course(taking)
    { progress: taking.progress || {}, speeds: taking.speeds || [], left: left(taking), error: taking.error, away: taking.away,
      pause_asked: taking.pause_asked, stop_asked: taking.stop_asked, enough_asked: taking.enough_asked }
  end

  def drive(taking)
    drive = taking.drive
    { id: drive.id, maker: drive.maker, model: drive.model, capacity: drive.capacity, port: taking.port, computer: drive.computer&.name }
  end

  def image(taking)
    image = taking.image or return
    { id: image.id, state: image.state, check_progress: image.check_progress, taken_at: image.taken_at.iso8601,
      unread: image.unread_sectors, checked_at: image.checked_at&.iso8601 }
  end

  # @return [Hash, nil] low and high in seconds of what it is at: reading the drive, or reading the image back
  def left(taking)
    progress = taking.progress.to_h
    return unless taking.state == 'running'
    return back(*progress.values_at('total', 'checked', 'check_seconds')) if progress['checked']

    seconds, moved = progress.values_at('run_seconds', 'run_moved')
    return unless seconds.to_f > EARLIEST && moved.to_i.positive?

    range = Evrel::Restore::Estimate.new(past(taking)).left(progress['total'], done: progress['done'], moved:, seconds:) or return
    { low: range.low.round, high: range.high.round }
  end

  # A shelf reads about as fast to the end as it did so far.
  def back(total, checked, seconds)
    return unless seconds > EARLIEST && checked.positive?

    rest = (total - checked) * seconds / checked
    BACK.to_h { |name, factor| [name, (rest * factor).round] }
  end

  # What was said before it began counts as one that was measured.
  def past(taking)
    expected = taking.expected or return []
    [Evrel::Restore::Estimate::Past.new(work: taking.progress.to_h['total'], seconds: expected.seconds.sum / 2.0, speeds: [])]
  end
  private_class_method :drive, :wished, :onto, :course, :image, :left, :back, :past
end
