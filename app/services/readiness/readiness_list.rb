# frozen_string_literal: true

# Which computers could be restored today: all of them judged, the worst first,
# a page at a time.
class ReadinessList
  PAGE = 40
  MOST = 250
  MARKS = 40 # images of a row that are drawn, the newest
  # Of tens of thousands: times as seconds, since reading them as dates would take as long as all the rest.
  SECONDS = "TIMESTAMPDIFF(SECOND, '1970-01-01', %s)"
  COLUMNS = ['id', 'computer_id', format(SECONDS, 'taken_at'), 'state', format(SECONDS, 'checked_at'), 'needed_bytes', 'used_bytes',
             'unread_sectors', 'shelf_id'].freeze
  # A computer with its verdict and its copies.
  Row = Struct.new(:computer, :copies, :verdict, keyword_init: true)

  # @param params [Hash] "q" (words), "state" (of Evrel::Readiness::STATES), "from", "count"
  # @param now [Time]
  def initialize(params = {}, now: Time.now)
    @params = params
    @now = now
  end

  # @return [Hash] computers, total, from, and counts (state → how many)
  def page
    found = rows.select { |row| wanted?(row) }
    shown = found[from, count] || []
    { computers: shown.map { |row| ReadinessView.of(row, proofs: proofs(shown), expected:) }, total: found.size, from:, counts:, words: }
  end

  # @return [Array<Row>] the worst first
  def rows
    @rows ||= computers.map { |one| judged(one) }
                       .sort_by { |row| [row.verdict.rank, row.verdict.copy ? row.verdict.copy.taken_at.to_i : 0, row.computer.name] }
  end

  # @return [Hash{Symbol=>Integer}]
  def counts
    @counts ||= Evrel::Readiness::STATES.to_h { |state| [state, 0] }.merge(rows.map { |row| row.verdict.state }.tally)
  end

  # @return [String] for whoever asks
  def words
    return 'No computer is known yet' if rows.empty?

    others = { 'not proved' => counts[:not_proved], 'could not' => counts[:not_possible] }.select { |_, number| number.positive? }
    ["#{counts[:ready]} of #{Words.count(rows.size, 'computer')} could be restored today",
     *others.map { |said, number| "#{number} #{said}" }].join(', ')
  end

  # @param since [Time] what was tried from then on is not tried again
  # @return [(Computer, Image), nil] whose proof is oldest, or was never made
  def to_prove(since)
    last = Proof.group(:computer_id).maximum(:created_at)
    row = rows.select { |one| one.verdict.copy&.attached && due?(one) && (last[one.computer.id] || Time.at(0)) < since }
              .min_by { |one| [last[one.computer.id] || Time.at(0), one.computer.id] }
    row && [row.computer, Image.find(row.verdict.copy.id)]
  end

  # @param computer [Computer]
  # @return [Row]
  def of(computer)
    @computers = [computer]
    rows.first
  end

  # @param computer [Computer]
  # @return [Hash] its row
  def alone(computer) = of(computer).then { |row| ReadinessView.of(row, proofs: proofs([row]), expected:) }

  private

  def from = [@params['from'].to_i, 0].max
  def count = (@params['count'] || PAGE).to_i.clamp(1, MOST)
  def computers = @computers ||= Computer.in_use.order(:name).to_a

  def wanted?(row)
    state = @params['state'].presence
    said = row.computer.slice(:name, :place, :owner, :model).values.join(' ').downcase
    (state.nil? || row.verdict.state.to_s == state) && @params['q'].to_s.downcase.split.all? { |word| said.include?(word) }
  end

  def due?(row)
    row.verdict.todo == :prove || [row.verdict.copy.started_at, row.verdict.copy.checked_at].compact.min.to_i < (@now - Proof::HOLDS).to_i
  end

  def judged(computer)
    copies = images.fetch(computer.id, []).map { |image| copy(*image) }
    Row.new(computer:, copies:, verdict: Evrel::Readiness.judge(copies, wish: computer.wish_days, drives:, now: @now))
  end

  # @return [Hash{Integer=>Array}] computer → the columns of its images; whole rows would be large
  def images
    @images ||= begin
      rows = judged_images.select(*COLUMNS.map { |one| Arel.sql(one) })
      Image.connection.select_rows(rows.to_sql).group_by { |one| one[1] }
    end
  end

  def judged_images = Image.there.where(computer_id: computers.one? ? computers.first.id : Computer.in_use.select(:id))

  def copy(id, _, taken_at, state, checked_at, needs, _, unread, shelf_id)
    start, started_at, said = starts[id]
    Evrel::Readiness::Copy.new(
      id:, taken_at: Time.at(taken_at), state:, checked_at: checked_at && Time.at(checked_at),
      due: checked_at.nil? || checked_at < due_before, start:, started_at:, said:, needs:, unread:,
      shelf: shelves.fetch(shelf_id).first, attached: shelves.fetch(shelf_id).last
    )
  end

  def due_before = @due_before ||= (@now - Image::CHECK_HOLDS).to_i

  # What the last trial start of each image came to: start, when, what it said.
  def starts
    @starts ||= begin
      told = TrialStart.where(state: 'done', write_id: nil, layout_try_id: nil).where.not(outcome: %w[stopped failed unavailable])
                       .where(image_id: judged_images.select(:id))
      TrialStart.where(id: told.group(:image_id).select('MAX(id)')).pluck(:image_id, :outcome, :updated_at, :message)
                .to_h { |id, outcome, at, message| [id, [started(outcome), at, message]] }
    end
  end

  def started(outcome)
    return :reached if outcome == 'reached'

    TrialStart::NOT_STARTED.include?(outcome) ? :not : :open
  end

  def shelves
    @shelves ||= Shelf.includes(:drive).to_h { |shelf| [shelf.id, [shelf.name, ShelfAccess.there?(shelf)]] }
  end

  # Those that nothing refuses, whatever is on them now.
  def drives
    @drives ||= TargetVerdict.new(nil).all.reject { |_, verdict| verdict.refused? }.map { |attached, _| attached.capacity }
  end

  def proofs(rows)
    @proofs ||= begin
      last = Proof.where(computer_id: rows.map { |row| row.computer.id }).group(:computer_id).select('MAX(id)')
      Proof.where(id: last).includes(:technician).index_by(&:computer_id)
    end
  end

  # From what this bench has measured, over any port.
  def expected
    @expected ||= begin
      estimate = Evrel::Restore::Estimate.new(ExpectedTime.anywhere)
      sizes = images.values.flatten(1).to_h { |image| [image[0], image[6]] }
      ->(id) { estimate.whole(sizes[id] * 2) if sizes[id].to_i.positive? }
    end
  end
end
