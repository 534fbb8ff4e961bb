# frozen_string_literal: true

# Carries out a write in the worker. Started again after the worker was killed,
# it goes on from its journal.
WriteJob = Struct.new(:write_id) do
  # Seconds between two records of progress.
  def self.every = 0.4
  def self.points = 240

  def perform
    write = Write.find(write_id)
    return unless %w[queued running].include?(write.state)

    @write = write
    @write.update!(state: 'running', started_at: write.started_at || Time.now, error: nil)
    finish(run)
  rescue Evrel::Stopped => e
    close('stopped', e)
  rescue Evrel::Error, SystemCallError => e
    close('failed', e)
    break_seal(e)
  rescue StandardError => e
    close('failed', Evrel::Error.new("something went wrong in Evrel itself: #{e.message}"))
    raise # for the worker's log
  end

  private

  def run
    docket = @write.docket
    guard = Guard.new(docket, going_on: Evrel::Restore::Journal.begun?(@write.journal_path))
    target = guard.check.open(writable: true, docket: docket.number)
    FileUtils.mkdir_p(File.dirname(@write.journal_path))
    @write.image.open_image do |image|
      plan = Stations::LayoutStation.new(docket).plan
      as_sealed(docket, image, plan)
      journal = Evrel::Restore::Journal.new(@write.journal_path, heading(plan))
      accept_unread = docket.seal('image').decision['unread'] == image.manifest.unread_sectors
      scratch = Evrel::Restore::Scratch.new(@write.scratch_path)
      Evrel::Restore::Engine.new(image:, target:, plan:, journal:, accept_unread:, scratch:, guard: -> { guard.check })
                            .run { |progress| record(progress) }
    end
  ensure
    target&.close
  end

  # What was sealed is what is written: the image may have been replaced in its
  # folder, and the plan with it.
  def as_sealed(docket, image, plan)
    return if image.manifest.id == docket.seal('image').decision['uid'] && plan.digest == docket.seal('layout').decision['digest']

    raise Evrel::Refused.new('the image in this place is not the one that was sealed', where: 'image', hint: 'seal the image again')
  end

  def heading(plan) = { image: @write.image.uid, plan: plan.digest, target: @write.drive.serial }

  def record(progress)
    @compared = progress.done if progress.order == 'read-back'
    return if @last && Time.now - @last < WriteJob.every && progress.order == @order

    @order = progress.order
    @last = Time.now
    @write.update!(progress: progress.to_h.merge(compared_bytes: @compared.to_i, **this_run(progress)), speeds: speeds(progress))
    :stop if Write.where(id: write_id).pick(:stop_asked)
  end

  # What this run has done, for the time left: an earlier run may be days ago.
  def this_run(progress)
    moved = progress.written + @compared.to_i
    @began ||= [@last, moved]
    { run_seconds: @last - @began.first, run_moved: moved - @began.last }
  end

  # The curve over the whole write, in a bounded number of points: when it is
  # full, neighbours become one, and from then on points come half as often.
  def speeds(progress)
    @skip = ((@skip || 0) + 1) % (@stride ||= 1)
    return @write.speeds unless progress.speed.positive? && @skip.zero?

    points = [*@write.speeds, progress.speed]
    return points if points.size < WriteJob.points

    @stride *= 2
    points.each_slice(2).map { |pair| pair.sum / pair.size }
  end

  def finish(result)
    outcomes = result.orders.map(&:to_h)
    @write.update!(state: result.verified? ? 'done' : 'failed', finished_at: Time.now, outcomes:,
                   mismatches: result.mismatches, verified: result.verified?,
                   error: (result.verified? ? nil : "#{result.mismatches.size} places do not match the image"),
                   progress: @write.progress.merge('written' => result.written, 'compared' => result.compared))
    @write.clear_scratch
    return Event.add('write_failed', @write.error, docket: @write.docket) unless result.verified?

    Event.add('write_done', 'Written and read back, all matches', docket: @write.docket, data: { seconds: @write.seconds })
    docket = Docket.find(@write.docket_id)
    Stations::WriteStation.new(docket).seal_verified(@write)
    Stations::StartStation.new(docket).read_chain
  end

  def close(state, error)
    message = [error.message, error.try(:hint)].compact.join('; ')
    @write.update!(state:, error: message, finished_at: Time.now)
    Event.add("write_#{state}", message, docket: @write.docket)
  end

  # The target's seal goes where the drive itself was found to be another.
  def break_seal(error)
    return unless error.is_a?(Evrel::Refused) && error.where == 'target' && error.message.include?('not as it was sealed')

    Docket.find(@write.docket_id).break_seals('target', because: error.message)
  end
end
