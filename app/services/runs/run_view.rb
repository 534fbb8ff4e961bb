# frozen_string_literal: true

# A run as the pages see it: what was decided for all, its row, and the attached
# drives that may still be taken.
class RunView
  # @param run [Run]
  # @return [Hash] without its row
  def self.head(run)
    dockets = run.dockets.includes(:seals, :writes).to_a
    { id: run.id, number: run.number, way: run.way, way_name: Run::WAYS.fetch(run.way), named: run.named,
      templates: run.templates || [], reason: run.reason, note: run.note,
      image: RunView.image(run.image),
      technician: run.technician.short_name, at: run.created_at.iso8601, count: dockets.size,
      written: dockets.count { |docket| docket.write&.verified }, closed: dockets.count(&:closed_at) }
  end

  # @param image [Image]
  # @return [Hash]
  def self.image(image)
    { id: image.id, computer: image.computer&.name, taken_at: image.taken_at.iso8601, used_bytes: image.used_bytes, state: image.state,
      size_bytes: image.document.size, parts: image.document.parts, shelf: image.shelf.name, there: ShelfAccess.there?(image.shelf) }
  end

  # What is set in the systems of the first of a row, before anything is written.
  # @param run [Run]
  # @param count [Integer]
  # @return [Array<Hash>] computer, and of each file that changes: path, before, after
  # @raise [Evrel::Error] where the image has no system, or not these files
  def self.names(run, count = 3)
    return [] unless run.named

    wanted = run.dockets.includes(:computer).first(count).map { |docket| [docket.computer.name, run.values_of(docket)] }
    SourceAccess.apart(run.image) do |image|
      files = Evrel::Own::Files.new(image.disk, run.templates.to_a)
      wanted.map { |computer, values| { computer:, files: files.texts(values).map { |text| beside(text) } } }
    end
  end

  def self.beside(text) = { path: text.path, before: shown(text.before), after: shown(text.after) }

  # Host keys and what is no text are nobody's business here.
  def self.shown(text) = text.valid_encoding? && !text.include?('PRIVATE KEY') ? text.first(2000) : '…'
  private_class_method :shown, :beside

  # @param run [Run]
  def initialize(run)
    @run = run
    @next = run.next_docket
  end

  # @return [Hash]
  def to_h
    RunView.head(@run).merge(places: dockets.map { |docket| place(docket) }, sample: @run.sample || [],
                             locked_until: locked_until&.iso8601, watch:, drives: @next ? drives : [])
  end

  private

  # @return [Hash, nil] what it takes by itself; said are those that it could not take
  def watch
    @run.watch&.then { |one| { way: one['way'], ends_at: one['ends_at'], away: one['away'].size, said: one['said'] } }
  end

  def dockets
    @dockets ||= @run.dockets.includes(:computer, :trial_starts, :start_checks, seals: :technician, writes: %i[technician drive]).to_a
  end

  def place(docket)
    target = docket.seal('target')
    write = docket.write
    { place: docket.run_place, docket_id: docket.id, docket_number: docket.number, computer: docket.computer.name,
      spot: docket.computer.place, port: target&.decision&.fetch('port', nil), label: target&.identity&.label,
      state: state(docket, write), write: write && WriteView.of(write), start: start(docket, write), tried: tried(docket, write),
      name_error: docket.own_error, broken: (broken(docket) unless target) }
  end

  # Why the drive that it had is its drive no longer.
  def broken(docket) = docket.seals.select { |seal| seal.station == 'target' && seal.broken_at }.max_by(&:broken_at)&.broken_because

  # As far as it has come.
  def state(docket, write)
    return 'signed' if docket.closed_at
    return write.state if write
    return 'ready' if docket.sealed?('layout')

    docket.sealed?('target') ? 'unfitted' : 'open'
  end

  # What reading the start-up chain off the written disk came to.
  def start(docket, write) = docket.start_checks.select { |check| check.write_id == write&.id && write }.max_by(&:id)&.state

  def tried(docket, write)
    trial = docket.trial_starts.select { |one| write && one.write_id == write.id }.max_by(&:id) or return
    { state: trial.state, reached: trial.reached?, message: trial.message }
  end

  def locked_until = @next && LabelProof.new([], docket: @next, among: dockets).locked_until

  # Refused ones are told too: somebody may hold one in the hand.
  def drives
    records = AttachedDrives.records
    verdicts = TargetVerdict.new(@next, records)
    verdicts.all.reject { |attached, _| ours?(records[attached.key]) }.map do |attached, verdict|
      { id: records[attached.key].id, port: attached.port, name: attached.name, capacity: attached.capacity, state: verdict.state,
        reason: verdict.reason&.title, blank: verdicts.contents(attached).blank?, hosts: verdicts.contents(attached).hosts }
    end
  end

  def ours?(record) = @run.dockets.map(&:id).include?(record.docket_id)
end
