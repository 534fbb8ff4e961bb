# frozen_string_literal: true

# Carries out a write in the worker. Started again after the worker was killed,
# it goes on from its journal.
WriteJob = Struct.new(:write_id) do
  def perform
    @write = Write.find(write_id)
    Owner.of(@write) { work } if %w[queued running].include?(@write.state)
  end

  private

  def work
    @write.update!(state: 'running', started_at: @write.started_at || Time.now, error: nil, trouble: nil)
    finish(Awake.while { WriteRun.new(@write).run })
  rescue Evrel::Stopped => e
    return @write.put_back if Workplace.ending? && !@write.reload.pause_asked && !@write.stop_asked

    close(@write.reload.pause_asked ? 'paused' : 'stopped', e)
  rescue Evrel::Restore::Trouble => e
    return if @write.put_back_if_ending

    @write.update!(trouble: WriteTrouble.new(@write, e).told)
    close('failed', e)
  rescue Evrel::Error, SystemCallError => e
    return if @write.put_back_if_ending

    close('failed', e)
    break_seal(e)
  rescue *Workplace::LOST
    raise
  rescue StandardError => e
    close('failed', Evrel::Error.new("something went wrong in Evrel itself: #{e.message}"))
    raise # for the worker's log
  end

  def finish(result)
    @write.update!(state: result.verified? ? 'done' : 'failed', finished_at: Time.now, outcomes: result.orders,
                   mismatches: result.mismatches, verified: result.verified?, summary: result.to_h.except(:orders, :mismatches),
                   error: (differs(result) unless result.verified?),
                   progress: @write.progress.merge('written' => result.written, 'compared' => result.compared))
    @write.clear_scratch
    return Event.add('write_failed', @write.error, docket: @write.docket) unless result.verified?

    Event.add('write_done', 'Written and read back, all matches', docket: @write.docket, data: { seconds: @write.seconds })
    docket = Docket.find(@write.docket_id)
    Stations::WriteStation.new(docket).seal_verified(@write)
    ChainReading.read(docket)
  end

  def differs(result)
    "#{result.mismatches.size} places do not match#{', written twice' if result.rewritten.positive?}"
  end

  def close(state, error)
    message = [error.message, error.try(:hint)].compact.join('; ')
    @write.update!(state:, error: message, finished_at: Time.now)
    Event.add("write_#{state}", message, docket: @write.docket)
  end

  # The target's seal goes where the drive itself was found to be another.
  def break_seal(error)
    return unless error.is_a?(Guard::Changed)

    Unseal.from(Docket.find(@write.docket_id), 'target', because: error.message)
  end
end
