# frozen_string_literal: true

# What a write comes to: its run, and what is kept of its end.
class WriteWork
  # @param write [Write] owned by this process
  # @param source [Evrel::Restore::SharedSource::Reader, nil] where others read from the same at the same time
  def initialize(write, source = nil)
    @write = write
    @source = source
  end

  def call
    @write.update!(state: 'running', started_at: @write.started_at || Time.now, error: nil, trouble: nil)
    finish(WriteRun.new(@write, @source).run)
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

  private

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
    OwnName.new(docket).give
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
    return unless [Guard::Changed, Evrel::Restore::SameTarget::Stranger].any? { |kind| error.is_a?(kind) }

    Unseal.from(Docket.find(@write.docket_id), 'target', because: error.message)
  end
end
