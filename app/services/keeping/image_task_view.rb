# frozen_string_literal: true

# What is done to an image in the background, as the pages see it.
module ImageTaskView
  module_function

  # @param task [ImageTask]
  def of(task)
    progress = task.progress.to_h
    { id: task.id, image_id: task.image_id, kind: task.kind, state: task.state, shelf: task.shelf&.name, error: task.error,
      step: progress['step'], done: progress['done'], total: progress['total'], stop_asked: task.stop_asked,
      by: task.technician.short_name, at: task.created_at.iso8601, made_id: task.made_id }
  end

  # @return [Hash, nil] what goes on with an image, or broke off
  def latest(image)
    task = ImageTask.where(image:).includes(:technician, :shelf).order(:id).last
    of(task) if task && %w[queued running failed].include?(task.state)
  end
end
