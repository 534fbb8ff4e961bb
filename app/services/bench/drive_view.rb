# frozen_string_literal: true

# Everything that is remembered of a drive.
module DriveView
  module_function

  # @param drive [Drive]
  # @return [Hash]
  def of(drive)
    { id: drive.id, serial: Evrel::Identity.mask(drive.serial), wwn: drive.wwn, maker: drive.maker, model: drive.model,
      bus: drive.bus, capacity: drive.capacity,
      owner: drive.computer&.name, docket: drive.docket&.number, protection: protection(drive), last_seen_at: drive.last_seen_at&.iso8601,
      sightings: sightings(drive), dockets: dockets(drive), images: images(drive), written: written(drive),
      tasks: drive.drive_tasks.includes(:technician, :shelf).order(id: :desc).limit(20).map do |task|
        TaskView.of(task, result: brief(task))
      end }
  end

  def protection(drive)
    return unless drive.protected?

    { by: drive.protected_by.short_name, note: drive.protected_note, until: drive.protected_until&.iso8601 }
  end

  def sightings(drive)
    drive.drive_sightings.order(id: :desc).limit(20).map do |one|
      { port: one.port, from: one.seen_from.iso8601, until: one.seen_until.iso8601 }
    end
  end

  # Those that ever sealed it.
  def dockets(drive)
    ids = Seal.where(station: 'target').order(id: :desc).limit(2000).select do |seal|
      seal.decision['drive_id'] == drive.id
    end.map(&:docket_id)
    Docket.includes(:computer).where(id: ids.uniq).order(id: :desc).map do |one|
      { id: one.id, number: one.number, computer: one.computer.name }
    end
  end

  def images(drive)
    return [] if drive.serial.blank?

    Image.there.where(drive_serial: drive.serial).includes(:shelf).order(taken_at: :desc).limit(20).map do |image|
      { id: image.id, taken_at: image.taken_at.iso8601, shelf: image.shelf.name, state: image.state }
    end
  end

  def written(drive)
    Write.where(drive:).preload(:source, :docket).order(id: :desc).limit(20).map do |write|
      { at: (write.started_at || write.created_at).iso8601, docket: write.docket.number, state: write.state, verified: write.verified,
        image_id: write.image&.id, image_taken_at: write.source.taken_at.iso8601 }
    end
  end

  def brief(task) = task.kind == 'count' ? task.result&.slice('files', 'bytes') : task.result&.except('index')
  private_class_method :sightings, :dockets, :images, :written, :brief
end
