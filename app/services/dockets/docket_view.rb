# frozen_string_literal: true

# Dockets as the pages see them.
module DocketView
  LEADS = { 'computer' => 'Say what happened', 'image' => 'Choose what to restore', 'target' => 'Choose the disk to overwrite',
            'layout' => 'Fit the image to the disk', 'write' => 'Write it and read it back', 'start' => 'Prove that it starts' }.freeze

  module_function

  # One row of the list.
  def row(docket)
    { id: docket.id, number: docket.number, computer: docket.computer.name, place: docket.computer.place,
      cause: docket.cause, cause_name: docket.cause_name, trouble_since: docket.trouble_since&.iso8601,
      trouble_noticed: docket.trouble_noticed&.iso8601,
      opened_at: docket.created_at.iso8601, closed_at: docket.closed_at&.iso8601,
      waits_for: docket.waits_for_technician&.short_name, waits_note: docket.waits_note,
      current: docket.current_station, stations: stations(docket), write: docket.write && progress(docket.write) }
  end

  # The sheet, without what its stations show.
  def of(docket)
    row(docket).merge(opened_by: docket.opened_by.short_name, note: docket.note, copied_from: docket.copied_from&.number,
                      run: docket.run && { id: docket.run.id, number: docket.run.number },
                      computer_id: docket.computer_id, drive_id: docket.target&.id,
                      broken: docket.seals.select(&:broken_at).max_by(&:broken_at)&.then { |seal| broken(seal) })
  end

  def stations(docket)
    Docket::STATIONS.map do |name|
      seal = docket.seal(name)
      { name:, title: name.capitalize, state: state(docket, name, seal), lead: seal&.summary || LEADS.fetch(name),
        seal: seal && { id: seal.id, by: seal.technician.initials, name: seal.technician.short_name, at: seal.created_at.iso8601 } }
    end
  end

  def state(docket, name, seal)
    return 'sealed' if seal

    docket.waits_for(name) ? 'later' : 'open'
  end

  def progress(write) = { state: write.state, progress: write.progress, id: write.id }

  def broken(seal)
    { station: seal.station, because: seal.broken_because, at: seal.broken_at.iso8601 }
  end
end
