# frozen_string_literal: true

# What a computer or a drive has been through, on one page.
module History
  MOST = 200

  module_function

  # @param computer [Computer]
  # @return [Hash]
  def of_computer(computer)
    dockets = computer.dockets.includes(:computer, :writes, seals: :technician).order(id: :desc)
    images = computer.images.there.order(taken_at: :desc).limit(MOST).includes(:shelf)
    { name: computer.name, place: computer.place, model: computer.model, firmware: computer.firmware, identity: computer.system_identity,
      dockets: dockets.map { |docket| docket_row(docket) }, images: images.map { |one| image_row(one) },
      drives: computer.drives.map { |drive| drive_row(drive).merge(port: AttachedDrives.of(drive)&.port) },
      starts: starts(computer), mends: mends(computer),
      readiness: ReadinessList.new.alone(computer) }
  end

  # Of its images, and of what was written for it.
  def starts(computer)
    of = TrialStart.where(state: 'done')
    found = of.where(image_id: computer.images.select(:id)).or(of.where(docket_id: computer.dockets.select(:id)))
    found.includes(:technician, :image).order(id: :desc).limit(MOST).map do |one|
      { id: one.id, of: one.image ? "the image of #{Words.time(one.image.taken_at)}" : 'the written disk', at: one.updated_at.iso8601,
        outcome: one.outcome, message: one.message, by: one.technician.short_name, docket_id: one.docket_id }
    end
  end

  def mends(computer)
    Mend.where(docket: computer.dockets).includes(:technician).order(id: :desc).limit(MOST).map do |one|
      { id: one.id, title: one.title, at: one.created_at.iso8601, by: one.technician.short_name, undone: one.undone?,
        docket_id: one.docket_id }
    end
  end

  # @param drive [Drive]
  # @return [Hash]
  def of_drive(drive)
    latest = ->(model) { model.where(drive:).order(id: :desc).limit(MOST) }
    drive_row(drive).merge(
      bus: drive.bus, port: AttachedDrives.of(drive)&.port, owner: drive.computer&.name, last_seen_at: drive.last_seen_at&.iso8601,
      sightings: latest.call(DriveSighting).map { |one| sighting(one) },
      writes: latest.call(Write).preload(:source, docket: %i[computer seals]).map { |write| write_row(write) },
      tasks: done_with(latest.call(DriveTask), latest.call(Taking))
    )
  end

  def done_with(tasks, takings)
    rows = tasks.map { |task| [task.kind, task] } + takings.map { |taking| ['image', taking] }
    rows.sort_by { |_, one| one.created_at }.reverse.first(MOST).map do |kind, one|
      { kind:, state: one.state, at: one.created_at.iso8601 }
    end
  end

  def sighting(one) = { port: one.port, from: one.seen_from.iso8601, until: one.seen_until.iso8601 }

  def drive_row(drive)
    { id: drive.id, name: "#{drive.maker} #{drive.model}", serial: Evrel::Identity.mask(drive.serial), capacity: drive.capacity }
  end

  def docket_row(docket)
    { id: docket.id, number: docket.number, cause: docket.cause_name, opened_at: docket.created_at.iso8601,
      closed_at: docket.closed_at&.iso8601, state: docket.closed_at ? 'signed off' : docket.current_station,
      proof: docket.seal('start')&.summary.to_s.gsub("\n", ', ').presence }
  end

  def image_row(image)
    { id: image.id, taken_at: image.taken_at.iso8601, shelf: image.shelf.name, used_bytes: image.used_bytes, state: image.state }
  end

  def write_row(write)
    { docket_id: write.docket_id, number: write.docket.number, computer: write.docket.computer.name, at: write.created_at.iso8601,
      state: write.state, verified: write.verified, image_taken_at: write.source.taken_at.iso8601, seconds: write.seconds&.round(1) }
  end
end
