# frozen_string_literal: true

# All that a docket has to show for itself, as it is handed over: plain data,
# described by docs/report.schema.json. What is signed off keeps the report of
# that moment.
class DocketReport
  VERSION = 1
  MOST_EVENTS = 500

  # @param docket [Docket]
  # @return [Hash] of a closed docket as it was signed off
  def self.of(docket) = docket.seal('start')&.evidence.to_h['report'] || JSON.parse(JSON.generate(new(docket).to_h))

  def initialize(docket)
    @docket = docket
    @write = docket.write
  end

  # @return [Hash]
  def to_h
    { version: VERSION, docket: about, computer:, image:, target:, cores:, stations:, write:, lost_and_saved: lost, start:, checklist:,
      open_points:, events: }
  end

  private

  def time(at) = at&.utc&.iso8601
  def items = @items ||= Checklist.new(@docket).items
  def checklist = items.map { |item| item.except(:photo, :drive_id) }
  def check = @check ||= @docket.start_checks.where(write: @write).order(:id).last
  def steps = check&.steps.to_a

  def about
    { number: @docket.number, cause: @docket.cause_name, trouble_since: time(@docket.trouble_since), note: @docket.note,
      opened_by: @docket.opened_by.name, opened_at: time(@docket.created_at), made_at: time(Time.now),
      copied_from: @docket.copied_from&.number }
  end

  def computer
    one = @docket.computer
    { name: one.name, place: one.place, model: one.model, firmware: one.firmware, secure_boot: one.secure_boot,
      identity: one.system_identity }
  end

  def image
    one = @docket.source or return
    { taken_at: time(one.taken_at), shelf: one.source_name, path: one.path.to_s, uid: one.uid, used_bytes: one.used_bytes, state: one.state,
      checked_at: time(one.checked_at), notes: Evrel::Image::Structure.kept(one.document) }
  end

  def target
    drive = @docket.target || @write&.drive or return
    { maker: drive.maker, model: drive.model, serial: drive.serial, capacity: drive.capacity,
      port: @write&.port || AttachedDrives.of(drive)&.port }
  end

  # The disk in the image, what was on the target before, and what is there now.
  def cores
    layout = @docket.seal('layout') or return
    document = @docket.source&.document
    now = layout.evidence['now'].to_h
    { image: core(document&.partitions.to_a, document&.drive.to_h['capacity_bytes']), before: core(now['parts'].to_a, now['size_bytes']),
      after: core(planned, @write&.drive&.capacity || @docket.target&.capacity) }
  end

  def core(parts, size)
    { size_bytes: size, parts: parts.map { |part| part.to_h.stringify_keys.slice('number', 'name', 'role', 'start_bytes', 'size_bytes') } }
  end

  def planned
    LayoutView.new(DocketLayout.new(@docket)).parts.map { |part| part.merge(number: part[:to_number]) }
  rescue Evrel::Error
    [] # its image is away
  end

  def stations
    @docket.station_times.map do |name, seal, seconds|
      { name:, by: seal.technician.name, at: time(seal.created_at), summary: seal.summary.gsub("\n", ', '), seconds: }
    end
  end

  def write
    return unless @write

    { state: @write.state, started_at: time(@write.started_at), finished_at: time(@write.finished_at), seconds: @write.seconds&.round(1),
      expected: @write.expected.to_h.slice(:low, :high, :measured), verified: @write.verified,
      compared: @write.progress.to_h['compared'], orders:,
      summary: @write.summary.to_h.slice('written', 'spared', 'discarded', 'rewritten', 'not_grown', 'digest', 'retries'), decisions: }
  end

  def decisions = @write.decisions.to_a.map { |one| { title: one.title, by: one.by, at: one.at } }

  def orders
    titles = @write.orders.to_a.to_h { |order| [order.id, order.title] }
    @write.outcomes.to_a.map { |one| { title: titles[one.id], bytes: one.bytes, seconds: one.seconds.to_f.round(2) } }
  end

  def lost
    tasks = @docket.drive_tasks.where(state: 'done').order(:id)
    { counted: tasks.where(kind: 'count').last&.result.to_h.slice('files', 'bytes', 'newer', 'hosts'),
      saved: tasks.where(kind: 'save').map { |task| task.result.to_h.slice('path', 'files', 'bytes') } }
  end

  def start
    trial = @docket.trial_starts.where(write: @write, state: 'done').order(:id).last
    { chain: chain, trial: trial && trial_of(trial), mends: mends }
  end

  def chain
    check && { state: check.state, at: time(check.created_at), steps: steps.map { |step| step.slice('id', 'state', 'title', 'detail') } }
  end

  def mends = @docket.mends.reject(&:undone?).map { |mend| mend.view.slice(:title, :before, :after, :by, :at) }

  def trial_of(trial)
    { outcome: trial.outcome, message: trial.message, seconds: trial.seconds, at: time(trial.updated_at), answer: trial.answer,
      milestones: trial.milestones || [], picture: trial.picture, lines: trial.lines.to_a.last(6) }
  end

  # What is left to do: questions of the chain, and the checklist.
  def open_points
    asked = steps.reject { |step| step['state'] == 'ok' }.map { |step| "#{step['title']}: #{step['remedy'] || step['detail']}" }
    asked + items.reject { |item| item[:done] }.map { |item| "#{item[:title]}: #{item[:detail]}" }
  end

  def events
    chain = EventChain.new(@docket).check
    list = @docket.events.includes(:technician).order(:id).last(MOST_EVENTS)
    { count: chain.count, whole: chain.whole?, head: chain.head,
      list: list.map { |event| { at: time(event.created_at), kind: event.kind, text: event.text, by: event.technician&.short_name } } }
  end
end
