# frozen_string_literal: true

require 'csv'

# Closed dockets: searched, filtered, and as a table for other programs.
class Records
  PAGE = 100
  BATCH = 500
  COLUMNS = %w[docket computer place cause opened_at opened_by closed_at closed_by proof image_taken_at image_shelf drive_serial drive_model
               written_bytes seconds expected_low expected_high verified mends].freeze

  # @param params [Hash] "q", "cause", "since" (date), "until", "all" (open ones too), "from"
  def initialize(params)
    @params = params
  end

  # @return [Hash] rows, total, causes with their counts
  def page
    found = filtered
    causes = found.group(:cause).count
    rows = dockets(found).offset(from).limit(PAGE).map { |docket| row(docket) }
    { rows:, from:, total: causes.values.sum, causes: }
  end

  # @return [String] of all dockets
  def csv
    SafeCsv.generate do |csv|
      csv << COLUMNS
      Docket.in_batches(of: BATCH, order: :desc) do |some|
        dockets(some).each { |docket| csv << table(docket).values_at(*COLUMNS.map(&:to_sym)) }
      end
    end
  end

  private

  def dockets(scope)
    scope.includes(:computer, :opened_by, :mends, seals: :technician, writes: [:drive, { image: :shelf }]).order(id: :desc)
  end

  def filtered
    scope = @params['all'] == 'yes' ? Docket.all : Docket.where.not(closed_at: nil)
    scope = scope.where(cause: @params['cause']) if @params['cause'].present?
    scope = scope.where(closed_at: day('since')..) if @params['since'].present?
    scope = scope.where(closed_at: ..(day('until') + 1.day)) if @params['until'].present?
    Words.likes(@params['q']).reduce(scope) { |found, like| with_word(found, like) }
  end

  # In its own texts, or in those of what was written.
  def with_word(scope, like)
    of_write = 'drives.serial LIKE :like OR drives.model LIKE :like OR shelves.name LIKE :like'
    written = Write.of_images.joins(:drive, image: :shelf).where(of_write, like:)
    scope.where('dockets.words LIKE ?', like).or(scope.where(id: written.select(:docket_id)))
  end

  def from = [@params['from'].to_i, 0].max

  def day(name)
    Date.iso8601(@params[name]).to_time
  rescue Date::Error
    raise Evrel::Refused.new("#{@params[name].inspect} is no date", where: name)
  end

  def row(docket)
    saved = report(docket).dig('lost_and_saved', 'saved').to_a
    table(docket).merge(id: docket.id, computer_id: docket.computer_id, drive_id: docket.writes.max_by(&:id)&.drive_id,
                        stations: docket.station_times.map { |name, _, seconds| { name:, seconds: } },
                        lost: saved.sum { |one| one['files'].to_i }, open_points: report(docket)['open_points'].to_a.size)
  end

  def report(docket) = docket.seal('start')&.evidence.to_h['report'].to_h

  def table(docket)
    start = docket.seal('start')
    { docket: docket.number, computer: docket.computer.name, place: docket.computer.place, cause: docket.cause_name,
      opened_at: docket.created_at.utc.iso8601, opened_by: docket.opened_by.name, closed_at: docket.closed_at&.utc&.iso8601,
      closed_by: start&.technician&.name, proof: start&.summary.to_s.gsub("\n", ', ').presence, **written(docket.writes.max_by(&:id)),
      mends: docket.mends.count { |mend| !mend.undone? } }
  end

  # Of a docket that has written nothing, all of it is nil.
  def written(write)
    return COLUMNS.grep(/image|drive|written|seconds|expected|verified/).to_h { |name| [name.to_sym, nil] } unless write

    source = write.image || write.source
    { image_taken_at: source.taken_at.utc.iso8601, image_shelf: source.source_name, drive_serial: write.drive.serial,
      drive_model: "#{write.drive.maker} #{write.drive.model}", written_bytes: write.progress.to_h['to_write'],
      seconds: write.seconds&.round(1), expected_low: write.expected&.low, expected_high: write.expected&.high,
      verified: write.verified }
  end
end
