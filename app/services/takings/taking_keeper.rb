# frozen_string_literal: true

# Begins an image of a drive, pauses and stops it, and lets it go on.
class TakingKeeper
  # @param technician [Technician]
  def initialize(technician)
    @technician = technician
  end

  # Measures what an image would take, unless that was done.
  # @param drive [Drive]
  # @return [DriveTask]
  def measure(drive)
    attached = attached!(drive)
    fingerprint = AttachedDrives.contents(attached).fingerprint
    known = TakingMeasure.new(drive, fingerprint).task
    return known if known && %w[queued running done].include?(known.state)

    drive.lock!
    DriveTask.idle!(drive)
    DriveTask.begin(drive:, technician: @technician, kind: 'measure', fingerprint:, params: { port: attached.port })
  end

  # @param drive [Drive]
  # @param given [Hash] "shelf_id", "parts", "temporary", "level", "checked", "note", "docket_id"
  # @param write [Write, nil] that reads the drive too: it takes the image along
  # @return [Taking]
  # @raise [Evrel::Refused]
  def begin(drive, given, write: nil)
    drive.lock!
    attached = attached!(drive)
    idle!(drive)
    taking = Taking.new(drive:, technician: @technician, port: attached.port, bench: attached.bench.name,
                        shelf: Shelf.find(given['shelf_id']), docket: Docket.find_by(id: given['docket_id']), write:, **wished(given))
    contents = AttachedDrives.contents(attached)
    check(taking, contents)
    beside_another(taking, given)

    taking.assign_attributes(fingerprint: contents.fingerprint, on_drive: contents.parts)
    taking.folder = TakingName.of(drive, contents, taking.shelf)
    expect_of(taking)
    lock(taking, given['passphrase'])
    taking.save!
    tell(taking, 'begun', "Image of the drive in port #{taking.port} onto #{taking.shelf.name} begun")
    taking.enqueue unless write
    taking
  end

  # What it has taken is kept: it goes on from there.
  def pause(taking)
    running!(taking)
    taking.update!(pause_asked: true)
    tell(taking, 'pause', "#{taking.work_words}: pause asked for")
  end

  # Of a salvage: what was read so far is to do, and becomes the image.
  # @raise [Evrel::Refused]
  def enough(taking)
    raise Evrel::Refused.new('only a salvage ends before all is read', where: 'taking') unless taking.salvage
    raise Evrel::Refused.new('it is over', where: 'taking') unless taking.open? || taking.can_go_on?

    taking.update!(enough_asked: true)
    tell(taking, 'enough', "#{taking.work_words}: what was read so far becomes the image")
    go_on(taking) unless taking.open?
  end

  # Ends it; nothing of it is kept.
  def stop(taking)
    return taking.update!(stop_asked: true) && tell(taking, 'stop', "#{taking.work_words}: stop asked for") if taking.open?
    raise Evrel::Refused.new('it is over', where: 'taking') unless taking.can_go_on?

    TakingRun.new(taking).discard
    taking.update!(state: 'stopped', error: nil, away: nil, finished_at: Time.now)
    tell(taking, 'stopped', "#{taking.work_words}: stopped; nothing is kept of it")
  end

  # @param passphrase [String, nil] of one that a passphrase opens, where that is not known any more
  # @raise [Evrel::Refused] where it cannot
  def go_on(taking, passphrase = nil)
    Passphrases.keep(taking.image_uid, passphrase) if taking.locked && passphrase.present?
    raise Evrel::Refused.new('it is over, or runs', where: 'taking') unless taking.can_go_on?

    taking.drive.lock!
    attached = attached!(taking.drive)
    idle!(taking.drive)
    unless taking.shelf && ShelfAccess.there?(taking.shelf)
      raise Evrel::Refused.new("shelf #{taking.shelf&.name} is not attached",
                               where: 'shelf')
    end

    taking.update!(state: 'queued', port: attached.port, error: nil, away: nil, pause_asked: false, stop_asked: false)
    tell(taking, 'queued', "#{taking.work_words}: goes on")
    taking.enqueue
    taking
  end

  private

  def attached!(drive)
    AttachedDrives.of(drive) or raise Evrel::Refused.new('that drive is not attached', where: 'drive', hint: 'plug it in, or list again')
  end

  def running!(taking)
    raise Evrel::Refused.new('it does not run', where: 'taking') unless taking.open?
  end

  # Others may read it at the same time, none may write to it.
  def idle!(drive)
    DriveTask.idle!(drive, kinds: DriveTask::WRITING)
    write = Write.find_by(drive:, state: %w[queued running])
    raise Evrel::Refused.new("#{write.work_words} goes onto that drive", where: 'drive', hint: 'wait for its end') if write

    other = Taking.open.find_by(drive:) or return
    raise Evrel::Refused.new("#{other.technician.short_name} has an image taken of it already", where: 'drive', hint: 'see that one')
  end

  def wished(given)
    { parts: numbers(given['parts']), temporary: given['temporary'] != false, level: given['level'] || 'balanced',
      checked: given['checked'] != false, salvage: given['salvage'] == true, retries: given['retries'] || 1, minutes: given['minutes'],
      note: given['note'].to_s.strip.presence }
  end

  # It goes into the memory of this process alone.
  def lock(taking, passphrase)
    taking.image_uid = SecureRandom.uuid
    return if passphrase.blank?
    raise Evrel::Refused.new('an image with a passphrase lies on top of no other', where: 'onto') if taking.onto

    taking.locked = true
    Passphrases.keep(taking.image_uid, passphrase)
  end

  # What it shares with an image that was taken before.
  def beside_another(taking, given)
    bases = TakingBases.new(taking.drive)
    taking.onto = bases.choose(given['onto_id'], taking.shelf)
    taking.fills = bases.choose_lacking(given['fills_id'])
    raise Evrel::Refused.new('what fails is taken whole', where: 'onto') if taking.onto && taking.salvage
    raise Evrel::Refused.new('only a salvage takes over from another image', where: 'fills') if taking.fills && !taking.salvage
  end

  def numbers(list)
    return if list.nil?
    raise Evrel::Refused.new('no part is chosen', where: 'parts', hint: 'choose one at least') if list.empty?

    list.uniq.sort
  end

  def check(taking, contents)
    unknown = taking.parts.to_a - contents.parts.map { |part| part['number'] }
    raise Evrel::Refused.new("there is no part #{Evrel::Units.list(unknown)} on this drive", where: 'parts') if unknown.any?

    TakingPlaces.new(taking.drive).refuse!(taking.shelf)
  end

  # @raise [Evrel::Refused] where it cannot fit
  def expect_of(taking)
    measure = TakingMeasure.new(taking.drive, taking.fingerprint)
    taking.expected = measure.forecast(parts: taking.parts, temporary: taking.temporary, level: taking.level,
                                       shelf: (taking.shelf if taking.checked)) or return
    free = TakingPlaces.free(taking.shelf) or return
    # What is salvaged lies there unpacked until the image is made of it.
    least = taking.expected.stored.first + (taking.salvage ? taking.expected.used : 0)
    return if least < free

    raise Evrel::Refused.new("shelf #{taking.shelf.name} lacks #{Evrel::Units.bytes(least - free)} at the least",
                             where: taking.shelf.name, hint: 'choose another shelf, fewer parts or a smaller level')
  end

  def tell(taking, kind, text)
    Event.add("taking_#{kind}", text, docket: taking.docket, technician: @technician, data: { taking: taking.id, drive: taking.drive_id })
  end
end
