# frozen_string_literal: true

# Carries out work on a drive in the background.
DriveTaskJob = Struct.new(:task_id) do
  # Seconds between two records of progress.
  def self.every = 0.4

  def perform
    @task = DriveTask.find(task_id)
    return unless @task.open?

    @task.update!(state: 'running')
    result = DriveWork.const_get(@task.kind.capitalize).new(@task).run { |progress| tell(progress) }
    close('done', result:)
  rescue Evrel::Stopped => e
    close('stopped', error: e.message)
  rescue Evrel::Error, SystemCallError => e
    close('failed', error: [e.message, (e.hint if e.is_a?(Evrel::Error))].compact.join('; '))
  rescue StandardError
    close('failed', error: 'something went wrong in Evrel itself')
    raise # for the worker's log
  end

  private

  def tell(progress)
    return if @last && Time.now - @last < DriveTaskJob.every

    @last = Time.now
    @task.update!(progress:)
    :stop if DriveTask.where(id: task_id).pick(:stop_asked)
  end

  def close(state, result: nil, error: nil)
    @task.update!(state:, result:, error:, progress: nil, finished_at: Time.now)
    words = "#{DriveWork::WORDS.fetch(@task.kind)} of the drive in port #{@task.params['port']}: #{state}#{", #{error}" if error}"
    Event.add("task_#{@task.kind}", words, docket: @task.docket, technician: @task.technician, data: { task: @task.id })
  end
end
