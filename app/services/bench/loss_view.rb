# frozen_string_literal: true

# What would be lost with a drive, as far as it was counted, and what was saved
# of it.
module LossView
  MOST = 300 # newer files that are sent

  module_function

  # @return [DriveTask, nil] the newest finished count of the drive as it is now
  def latest(record, fingerprint) = counted(record, fingerprint).first

  def counted(record, fingerprint)
    record.drive_tasks.where(kind: 'count', state: 'done', fingerprint:).order(id: :desc).limit(1)
  end

  # Of the last finished counts of drives, without reading all that they have found.
  # @param records [Array<Drive>]
  # @param fingerprints [Array<String>] of the drives as they are now
  # @return [Hash{(Integer, String)=>Time}] id of a drive and its fingerprint → time of its newest file
  def newest(records, fingerprints)
    done = DriveTask.where(drive: records, kind: 'count', state: 'done', fingerprint: fingerprints)
    DriveTask.where(id: done.group(:drive_id, :fingerprint).maximum(:id).values)
             .pluck(:drive_id, :fingerprint, Arel.sql("JSON_VALUE(result, '$.newest')"))
             .filter_map { |drive, fingerprint, text| [[drive, fingerprint], Time.iso8601(text)] if text }.to_h
  end

  # That file, with its name, of a drive as it is now.
  # @return [Hash, nil] path and time
  def newest_file(record, fingerprint)
    found = counted(record, fingerprint).pick(Arel.sql("JSON_EXTRACT(result, '$.volumes[*].newest')"))
    found && JSON.parse(found).compact.max_by { |file| file['at'] }
  end

  # The count that fits a docket's image, running or done.
  # @return [DriveTask, nil]
  def task(docket, record, fingerprint)
    record.drive_tasks.where(kind: 'count', fingerprint:).where.not(state: %w[failed stopped]).order(id: :desc)
          .find { |one| one.params['image_uid'] == docket.source&.uid }
  end

  # Why it was not counted, where nothing else is known.
  # @return [DriveTask, nil]
  def failed(docket, record, fingerprint)
    record.drive_tasks.where(kind: 'count', docket:, fingerprint:, state: 'failed').order(id: :desc).first
  end

  # @return [Hash]
  def of(docket, record, fingerprint)
    task = task(docket, record, fingerprint) || failed(docket, record, fingerprint)
    { count: task && TaskView.of(task, result: trimmed(task.result)), image: newest_image(record),
      saved: docket.drive_tasks.where(drive: record, kind: 'save').order(id: :desc).map do |one|
        TaskView.of(one, result: brief(one))
      end }
  end

  # The list of what was saved lies beside the archive.
  def brief(task) = task.result&.except('index')

  def trimmed(result)
    return unless result

    volumes = result['volumes'].map do |volume|
      next volume unless volume['newer']

      volume.merge('newer' => volume['newer'].merge('named' => volume['newer']['named'].first(MOST)))
    end
    result.merge('volumes' => volumes)
  end

  # @return [Hash, nil] the newest image of this very drive
  def newest_image(record)
    return if record.serial.blank?

    image = Image.there.where(drive_serial: record.serial).order(:taken_at).last
    image && { id: image.id, taken_at: image.taken_at.iso8601, state: image.state, shelf: image.shelf.name }
  end
  private_class_method :counted, :brief, :trimmed, :newest_image
end
