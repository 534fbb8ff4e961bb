# frozen_string_literal: true

# What has changed since the last look, in a few cheap queries.
class Pulse
  # An event has its number before the change that it belongs to is kept: so many numbers are looked at again.
  LATE = 500

  def initialize
    @event = Event.maximum(:id).to_i
    @told = Event.where('id > ?', @event - LATE).pluck(:id).to_set
    @bench = noted
    @work = {}
  end

  # Work that lives is told of at every beat, changed or not: a page that hears nothing of it says so.
  # @return [Array<(String, Hash)>] name and data of each message
  def news
    @beats = Owner.pluck(:work, :beats).to_h
    events + writes + trials + tries + tasks + takings + image_tasks + checks + proofs + people + bench
  end

  private

  def events
    fresh = Event.where('id > ?', @event - LATE).pluck(:id).reject { |id| @told.include?(id) }
    fresh.any? ? told(Event.where(id: fresh).includes(docket: :computer).order(:id)) : []
  end

  def told(events)
    events.map do |event|
      @told << event.id
      @event = [@event, event.id].max
      ['event', { id: event.id, kind: event.kind, text: event.text, docket_id: event.docket_id, computer: event.docket&.computer&.name }]
    end.tap { @told.delete_if { |id| id <= @event - LATE } }
  end

  def writes
    Write.where(state: %w[queued running]).includes(:technician).filter_map do |write|
      ['write', WriteView.of(write)] if changed?("write-#{write.id}", [write.updated_at, beats(write)])
    end
  end

  def trials
    TrialStart.where(state: %w[queued running]).filter_map do |trial|
      ['trial', TrialView.of(trial).merge(docket_id: trial.docket_id)] if changed?("trial-#{trial.id}", [trial.updated_at, beats(trial)])
    end
  end

  def tries
    LayoutTry.where(state: %w[queued running]).filter_map do |tried|
      ['layout_try', { id: tried.id, docket_id: tried.docket_id }] if changed?("try-#{tried.id}", [tried.updated_at, beats(tried)])
    end
  end

  def tasks
    DriveTask.open.includes(:technician, :shelf).filter_map do |task|
      ['task', TaskView.of(task)] if changed?("task-#{task.id}", [task.updated_at, beats(task)])
    end
  end

  def takings
    Taking.open.includes(:technician, :shelf, :image, :onto, drive: :computer).filter_map do |taking|
      ['taking', TakingView.of(taking)] if changed?("taking-#{taking.id}", [taking.updated_at, beats(taking)])
    end
  end

  def image_tasks
    ImageTask.open.includes(:technician, :shelf).filter_map do |task|
      ['image_task', ImageTaskView.of(task)] if changed?("image-task-#{task.id}", [task.updated_at, beats(task)])
    end
  end

  # Dockets at which somebody came, went or chose something else.
  def people
    before = @people || {}
    @people = Presence.marks
    (before.keys | @people.keys).reject { |docket| before[docket] == @people[docket] }.map { |docket| ['people', { docket_id: docket }] }
  end

  def proofs
    Proof.open.includes(:technician).filter_map do |proof|
      view = ReadinessView.proof(proof)
      ['proof', view] if changed?("proof-#{proof.id}", view)
    end
  end

  # Checks as they run, and shelves as they are looked through.
  def checks
    running = Image.where(state: 'checking').pluck(:id, :check_progress, :pause_asked)
    looks = Shelf.where(look_state: %w[queued running]).pluck(:id, :look_state, :look_done, :look_total)
    messages = []
    if changed?('checks', [running, running.map { |id,| @beats["Image #{id}"] }])
      messages << ['images', { checking: running.map do |id, progress, _|
        { id:, progress: parsed(progress) }
      end }]
    end
    if changed?('looks', [looks, looks.map { |id,| @beats["Shelf #{id}"] }])
      messages << ['shelves', { looking: looks.map { |id, state, done, total| { id:, state:, done:, total: } } }]
    end
    messages
  end

  def beats(row) = @beats[Owner.name_of(row)]

  def parsed(value) = value.is_a?(String) ? JSON.parse(value) : value

  def bench
    revision = noted
    return [] if revision == @bench

    @bench = revision
    [['bench', { revision: }]]
  end

  # Of all benches, other hosts' too: told when what happened there is noted.
  def noted = BenchState.order(:bench).pluck(:bench, :revision).join(' ')

  def changed?(key, value)
    return false if @work[key] == value

    @work[key] = value
    true
  end
end
