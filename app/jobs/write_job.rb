# frozen_string_literal: true

# Carries out a write in the worker. Started again after the worker was killed,
# it goes on from its journal.
WriteJob = Struct.new(:write_id) do
  # Seconds between two records of progress.
  def self.every = 0.4

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
  end

  private

  def run
    docket = @write.docket
    guard = Guard.new(docket, going_on: Evrel::Restore::Journal.begun?(@write.journal_path))
    target = guard.check.open(writable: true)
    FileUtils.mkdir_p(File.dirname(@write.journal_path))
    @write.image.open_image do |image|
      plan = Stations::LayoutStation.new(docket).plan
      journal = Evrel::Restore::Journal.new(@write.journal_path, heading(plan))
      Evrel::Restore::Engine.new(image:, target:, plan:, journal:, guard: -> { guard.check })
                            .run { |progress| record(progress) }
    end
  ensure
    target&.close
  end

  def heading(plan) = { image: @write.image.uid, plan: plan.digest, target: @write.drive.serial }

  def record(progress)
    @compared = progress.done if progress.order == 'read-back'
    return if @last && Time.now - @last < WriteJob.every && progress.order == @order

    @order = progress.order
    @last = Time.now
    speeds = [*@write.speeds, progress.speed].last(240) if progress.speed.positive?
    @write.update!(progress: progress.to_h.merge(compared_bytes: @compared.to_i), speeds: speeds || @write.speeds)
    :stop if Write.where(id: write_id).pick(:stop_asked)
  end

  def finish(result)
    outcomes = result.orders.map(&:to_h)
    @write.update!(state: result.verified? ? 'done' : 'failed', finished_at: Time.now, outcomes:,
                   mismatches: result.mismatches, verified: result.verified?,
                   error: (result.verified? ? nil : "#{result.mismatches.size} places do not match the image"),
                   progress: @write.progress.merge('written' => result.written, 'compared' => result.compared))
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
