# frozen_string_literal: true

# Copies, moves and makes images whole in the background. Started again after
# its worker was killed, it goes on from what lies on the shelf.
ImageTaskJob = Struct.new(:task_id) do
  # Seconds between two records of progress.
  def self.every = 0.4

  def perform
    @task = ImageTask.find(task_id)
    Owner.of(@task) { work } if @task.open?
  end

  private

  def work
    @task.update!(state: 'running', error: nil)
    made = ImageMove.new(@task).run { |progress| tell(progress) }
    close('done', made:)
  rescue Evrel::Stopped => e
    return @task.put_back if Workplace.ending? && !@task.reload.stop_asked

    ImageMove.new(@task).discard
    close('stopped', error: e.message)
  rescue Evrel::Error, SystemCallError => e
    return if @task.put_back_if_ending

    close('failed', error: [e.message, (e.hint if e.is_a?(Evrel::Error))].compact.join('; '))
  rescue *Workplace::LOST
    raise
  rescue StandardError
    close('failed', error: 'something went wrong in Evrel itself')
    raise # for the worker's log
  end

  def tell(progress)
    @telling ||= Telling.new(@task, ImageTaskJob.every)
    @telling.call(at: progress[:step]) { @task.update!(progress:) }
  end

  def close(state, made: nil, error: nil)
    @task.update!(state:, made:, error:, stop_asked: false, finished_at: Time.now)
    Event.add("image_#{@task.kind}", "#{@task.work_words}: #{state}#{", #{error}" if error}",
              technician: @task.technician, data: { image_id: @task.image_id })
  end
end
