# frozen_string_literal: true

# Carries out work on a drive in the background.
DriveTaskJob = Struct.new(:task_id) do
  # Seconds between two records of progress.
  def self.every = 0.4

  def perform
    @task = DriveTask.find(task_id)
    Owner.of(@task) { work } if @task.open?
  end

  private

  def work
    # One that runs already was begun by a process that lost the database.
    @task.params = @task.params.to_h.merge('again' => true) if @task.state == 'running'
    @task.update!(state: 'running')
    result = DriveWork.const_get(@task.kind.capitalize).new(@task).run { |progress| tell(progress) }
    close('done', result:)
  rescue Evrel::Stopped => e
    return @task.put_back if Workplace.ending? && !@task.unsafe && !@task.reload.stop_asked

    close('stopped', error: e.message)
  rescue Evrel::Error, SystemCallError => e
    return if !@task.unsafe && @task.put_back_if_ending

    close('failed', error: [e.message, (e.hint if e.is_a?(Evrel::Error))].compact.join('; '))
  rescue *Workplace::LOST
    raise
  rescue StandardError
    close('failed', error: 'something went wrong in Evrel itself')
    raise # for the worker's log
  end

  def tell(progress)
    @telling ||= Telling.new(@task, DriveTaskJob.every)
    @telling.call { @task.update!(progress:) }
  end

  def close(state, result: nil, error: nil)
    @task.update!(state:, result:, error:, progress: nil, finished_at: Time.now)
    Event.add("task_#{@task.kind}", "#{@task.work_words}: #{state}#{", #{error}" if error}",
              docket: @task.docket, technician: @task.technician, data: { task: @task.id })
  end
end
