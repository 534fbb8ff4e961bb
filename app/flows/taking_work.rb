# frozen_string_literal: true

# What the taking of an image comes to: its run, and what is kept of its end.
class TakingWork
  # @param taking [Taking] owned by this process
  # @param shared [Evrel::Restore::SharedSource::Reader, nil] of its drive, where a write reads the same at the same time
  def initialize(taking, shared = nil)
    @taking = taking
    @shared = shared
  end

  def call
    @taking.update!(state: 'running', started_at: @taking.started_at || Time.now, error: nil, away: nil)
    Awake.while { TakingRun.new(@taking, @shared).run }
    close('done', 'done')
  rescue TakingRun::Rests => e
    close('paused', e.message, error: "#{e.message}; it goes on when somebody says so")
  rescue Evrel::Stopped
    ended
  rescue TakingRun::Gone => e
    return if @taking.put_back_if_ending

    @taking.update!(away: e.what)
    close('failed', e.message, error: [e.message, e.hint].join('; '))
  rescue Evrel::Error, SystemCallError => e
    return if @taking.put_back_if_ending

    close('failed', e.message, error: [e.message, e.try(:hint)].compact.join('; '))
  rescue *Workplace::LOST
    raise
  rescue StandardError
    close('failed', 'something went wrong in Evrel itself', error: 'something went wrong in Evrel itself')
    raise # for the worker's log
  end

  private

  def ended
    @taking.reload
    return close('paused', 'paused') if @taking.pause_asked && !@taking.stop_asked
    return @taking.put_back unless @taking.stop_asked

    TakingRun.new(@taking).discard
    close('stopped', 'stopped; nothing is kept of it')
  end

  def close(state, words, error: nil)
    @taking.update!(state:, error:, pause_asked: false, finished_at: Time.now)
    Event.add("taking_#{state}", "#{@taking.work_words}: #{words}", docket: @taking.docket, technician: @taking.technician,
                                                                    data: { taking: @taking.id, drive: @taking.drive_id })
  end
end
