# frozen_string_literal: true

# Whatever is marked as running has a living owner. What has none is taken up
# again, or freed with its reason; what waits for its turn has a job that waits
# with it.
class TakeUp
  DEAD_AFTER = 30 # seconds without a beat, where the process itself cannot be looked at
  GRACE = 5       # seconds between a row and its job, at most
  EVERY = 3       # seconds between two looks
  MOST = 3        # times: what ends its process each time would go on ending it
  KINDS = [Write, TrialStart, LayoutTry, DriveTask, Taking, ImageTask, Image, Shelf].freeze

  class << self
    # Looks at once, and from now on in a thread of its own.
    def watch
      rounds = new
      rounds.check
      Rounds.every(EVERY) { rounds.check }
    end
  end

  def initialize
    @beats = {}
    @since = {}
  end

  # @return [Array<ActiveRecord::Base>] what was taken up or freed
  def check
    due
    owners = Owner.all.index_by(&:work)
    rows = KINDS.to_h { |kind| [kind, [kind.at_work.to_a, kind.waiting.to_a]] }
    ended(owners.except(*rows.values.flatten.map { |row| Owner.name_of(row) }).values)
    rows.values.flat_map do |at_work, waiting|
      at_work.select { |row| owners[Owner.name_of(row)].then { |owner| dead?(row, owner) && again(row, owner) } } +
        waiting.select { |row| forgotten?(row, owners[Owner.name_of(row)]) && queue(row) }
    end
  end

  private

  # Nothing is put off: a job that is due later only was put into its queue before the clock was set back.
  def due = Delayed::Job.where(run_at: (Time.now.utc + Lately::AHEAD)..).update_all(run_at: Time.now.utc)

  # Whose work was done when the database went away: nobody could say so.
  def ended(owners)
    owners.each { |owner| owner.delete if owner.process.nil? || Workplace.alive?(owner.process) == false }
  end

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

  # Between the end of its process and the next look somebody else may own it.
  def dead?(row, owner)
    return forgotten?(row, nil) if owner.nil? || owner.process.nil?

    alive = Workplace.alive?(owner.process)
    alive == false || still?(owner)
  end

  # @return [Boolean] whether it has not counted up for too long
  def still?(owner)
    beats, since = @beats[owner.work]
    @beats[owner.work] = [owner.beats, since = now] if beats != owner.beats
    now - since > DEAD_AFTER
  end

  # @return [Boolean] whether nothing will ever do it
  def forgotten?(row, owner)
    work = Owner.name_of(row)
    if owner&.process || row.jobs.exists?(failed_at: nil)
      @since.delete(work)
      return false
    end

    now - (@since[work] ||= now) > GRACE
  end

  # @return [Boolean] whether it was done here, and not by somebody a moment earlier
  def again(row, seen)
    work = Owner.name_of(row)
    @since.delete(work)
    Owner.entry(work) do |owner|
      # All workers look when they begin: what another one has taken up since is not cut off once more.
      next false unless [owner.process, owner.taken_up] == [seen&.process, seen&.taken_up.to_i] && row.class.at_work.exists?(row.id)
      next false if owner.process && Workplace.alive?(owner.process) && !still?(owner)

      owner.update!(process: nil, taken_up: owner.taken_up + 1)
      owner.taken_up > MOST ? free(row, owner) : wait(row)
      true
    end
  rescue ActiveRecord::RecordNotUnique
    false
  end

  # @return [Object, nil] nil where somebody was a moment earlier
  def queue(row)
    row.with_lock { row.enqueue if row.class.waiting.exists?(row.id) && !row.jobs.exists?(failed_at: nil) }
  rescue ActiveRecord::RecordNotFound
    nil # it was removed
  end

  def wait(row)
    row.jobs.where.not(failed_at: nil).delete_all
    return row.give_up(row.unsafe) if row.try(:unsafe)

    row.wait_again
    waiting = row.jobs
    waiting.exists? ? waiting.update_all(locked_at: nil, locked_by: nil) : row.enqueue
    Event.add('work_taken_up', "#{row.work_words}: what did it has ended; it is taken up again", docket: row.try(:docket))
  end

  def free(row, owner)
    row.jobs.delete_all
    row.give_up("it was cut off #{owner.taken_up} times, and is not tried again")
    owner.destroy!
  end
end
