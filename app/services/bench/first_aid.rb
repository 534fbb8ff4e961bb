# frozen_string_literal: true

# "Save them first": what is counted, and what is kept of a target before it is
# overwritten.
class FirstAid
  # @param docket [Docket]
  # @param drive_id [Integer]
  # @param technician [Technician]
  def initialize(docket, drive_id, technician)
    @docket = docket
    @technician = technician
    @record = Drive.find_by(id: drive_id)
    @attached = AttachedDrives.of(@record) or raise Evrel::Refused.new('that drive is not attached', where: 'target', hint: 'list again')
  end

  # Counts what would be lost; a count that fits is not made again.
  # @return [DriveTask]
  def count
    raise Evrel::Refused.new('seal an image first', where: 'target') unless @docket.source

    LossView.task(@docket, @record, fingerprint) ||
      begin_task('count', image_uid: @docket.source.uid, since: @docket.source.taken_at.iso8601)
  end

  # @param shelf [Shelf]
  # @param wanted [Hash{String=>Array<String>}, nil] part → paths; without it, all that is newer than the image
  # @return [DriveTask]
  def save(shelf, wanted)
    check(shelf)
    newer = wanted.blank?
    counted = LossView.task(@docket, @record, fingerprint)&.result
    wanted = newer ? newer_parts(counted) : checked(wanted)
    bytes = counted && newer ? counted['newer_bytes'] : nil
    room(shelf, bytes)
    begin_task('save', shelf:, name: name('files'), wanted:, bytes:, since: newer ? @docket.source.taken_at.iso8601 : nil)
  end

  private

  def fingerprint = @fingerprint ||= AttachedDrives.contents(@attached).fingerprint

  def begin_task(kind, shelf: nil, **params)
    @record.lock!
    DriveTask.idle!(@record)
    DriveTask.begin(drive: @record, docket: @docket, technician: @technician, shelf:, kind:, fingerprint:,
                    params: { port: @attached.port, **params }.compact)
  end

  def check(shelf)
    raise Evrel::Refused.new('files cannot be saved to a web place', where: shelf.name) if shelf.kind == 'web'
    unless ShelfAccess.there?(shelf)
      raise Evrel::Refused.new("shelf #{shelf.name} is not attached", where: shelf.name, hint: 'plug its drive in')
    end
    return unless shelf.drive_id == @record.id

    raise Evrel::Refused.new("shelf #{shelf.name} lies on this very drive", where: shelf.name,
                                                                            hint: 'choose another')
  end

  # What packs well needs less; it is not counted on.
  def room(shelf, bytes)
    free = shelf.free_bytes or return
    return if bytes.nil? || bytes < free

    raise Evrel::Refused.new("shelf #{shelf.name} lacks #{Evrel::Units.bytes(bytes - free)}", where: shelf.name, hint: 'choose another')
  end

  def newer_parts(counted)
    raise Evrel::Refused.new('what is newer has not been counted yet', where: 'target', hint: 'wait for the count') unless counted

    parts = counted['volumes'].select { |volume| volume.dig('newer', 'files').to_i.positive? }
    raise Evrel::Refused.new('nothing on it is newer than the image', where: 'target', hint: 'choose files yourself') if parts.empty?

    parts.to_h { |volume| [volume['part'].to_s, ['/']] }
  end

  def checked(wanted)
    fine = wanted.is_a?(Hash) && wanted.all? do |part, paths|
      part.match?(/\A\d+\z/) && paths.is_a?(Array) && paths.all? { |path| path.is_a?(String) && path.start_with?('/') }
    end
    raise Evrel::Refused.new('the list of files is none', where: 'wanted') unless fine

    wanted
  end

  # Told apart by its moment; the serial stays hidden.
  def name(what) = "saved/#{@docket.number}/port-#{@attached.port}-#{Time.now.strftime('%Y-%m-%d-%H%M%S')}-#{what}"
end
