# frozen_string_literal: true

# Work on a drive in the background, as the pages see it.
module TaskView
  module_function

  # @param task [DriveTask]
  # @param result [Hash, nil] in place of the whole
  def of(task, result: task.result)
    { id: task.id, kind: task.kind, state: task.state, drive_id: task.drive_id, docket_id: task.docket_id, params: task.params || {},
      progress: task.progress, result:, error: task.error, by: task.technician.short_name, at: task.created_at.iso8601,
      finished_at: task.finished_at&.iso8601, shelf: task.shelf&.name }
  end
end
