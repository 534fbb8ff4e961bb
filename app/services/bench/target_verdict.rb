# frozen_string_literal: true

# Gathers what the rules need to know about an attached drive and lets them
# judge it: for a docket with its sealed image, or for work on the drive itself.
class TargetVerdict
  # @param attached [Evrel::Bench::Drive]
  # @param verdict [Evrel::Safety::Verdict]
  # @raise [Evrel::Refused] where the verdict refuses the drive
  def self.refuse!(attached, verdict)
    return unless verdict.refused?

    raise Evrel::Refused.new("the drive in port #{attached.port} is refused: #{verdict.reason.title}",
                             where: "port #{attached.port}", hint: verdict.reason.detail)
  end

  # @param docket [Docket, nil] with a sealed image
  # @param records [Hash{String=>Drive}] key → record
  def initialize(docket, records = AttachedDrives.records)
    @docket = docket
    @records = records
    @drives = AttachedDrives.list.select { |drive| records.key?(drive.key) }
    @shown = AttachedDrives.shown_all(@drives)
  end

  # @param attached [Evrel::Bench::Drive]
  # @return [Evrel::Safety::Verdict]
  # @raise [Evrel::Away] where it was pulled a moment ago
  def of(attached)
    raise Evrel::Away.new('the drive does not answer any more', where: "port #{attached.port}") unless @shown.key?(attached.slot)

    Evrel::Safety.judge(candidate(attached), @docket ? purpose : bare(attached))
  end

  # @return [Evrel::Survey] what is on an attached drive
  def contents(attached) = @shown.fetch(attached.slot)

  # @return [Array<(Evrel::Bench::Drive, Evrel::Safety::Verdict)>] by port
  def all = @drives.map { |attached| [attached, of(attached)] }

  private

  def purpose
    @purpose ||= begin
      image = @docket.source
      document = image.document
      was = image.drive_serial && Drive.find_by(serial: image.drive_serial)
      Evrel::Safety::Purpose.new(
        docket: @docket.number, computer: @docket.computer.name, needs: document.needs, least: document.least, amount: image.used_bytes,
        logical_sector: document.logical_sector, shelf: image.shelf&.name, disk_guid: document.disk_guid, taken_at: image.taken_at,
        table_kind: document.table_kind, parts: document.parts, rotating: was&.rotating
      )
    end
  end

  # Nothing goes onto it: size and kind do not matter.
  def bare(attached) = Evrel::Safety::Purpose.new(needs: 0, logical_sector: attached.logical_sector, parts: [])

  def candidate(attached)
    record = @records[attached.key]
    contents = @shown.fetch(attached.slot)
    Evrel::Safety::Candidate.new(
      shelves: record.shelves.map(&:name), source_of: sources.fetch(record.id, []),
      moved: MovedDrives.fact(moves, record, attached, contents), docket: record.docket&.number,
      protection: record.protection, owner: record.computer&.name,
      volumes: volumes(contents), hosts: contents.hosts, disk_guid: contents.disk_guid, newest: newest(record, contents),
      newest_image: newest_image(attached), **drive(attached), **others(attached, contents)
    )
  end

  def sources = @sources ||= DriveSource.dockets
  def moves = @moves ||= MovedDrives.all

  def drive(attached)
    { identity: Evrel::Identity.new(serial: attached.serial, capacity: attached.capacity), health: attached.health,
      logical_sector: attached.logical_sector, physical_sector: attached.physical_sector, read_only: attached.read_only || false,
      removable: attached.removable || false, rotating: attached.rotating, running: attached.running || false,
      in_use: attached.in_use.presence, speed: attached.port_speed, bus: attached.bus }
  end

  # What the other attached drives mean for it.
  def others(attached, contents)
    same, rest = @drives.reject { |other| other.slot == attached.slot }.partition { |other| other.key == attached.key }
    twins = rest.select { |other| other.name == attached.name && other.capacity == attached.capacity }
    copies = rest.select { |other| contents.disk_guid && @shown.fetch(other.slot).disk_guid == contents.disk_guid }
    { conflicts: same.map(&:port), twins: twins.map(&:port), same_disk: copies.map(&:port), near: near(attached, rest) }
  end

  # @return [Hash{String=>Integer}] port → characters by which its serial differs
  def near(attached, rest)
    rest.filter_map { |other| Evrel::Identity.near(attached.serial, other.serial)&.then { |at| [other.port, at.size] } }.to_h
  end

  def volumes(contents)
    return [{ 'kind' => 'a table that cannot be read', 'used_bytes' => 0 }] if contents.problem

    contents.volumes
  end

  # What was counted is exact; until then, what the volumes themselves say.
  def newest(record, contents) = counted[[record.id, contents.fingerprint]] || contents.written_at

  # Of all drives at once: each of them by itself is two questions to the database.
  def counted = @counted ||= LossView.newest(@records.values, @shown.values.filter_map(&:fingerprint))

  def newest_image(attached) = newest_images[attached.serial.to_s.downcase]

  # By serials as the database compares them, without regard to case.
  def newest_images
    @newest_images ||= Image.there.where(drive_serial: @drives.filter_map { |attached| attached.serial.presence }).group(:drive_serial)
                            .maximum(:taken_at).transform_keys(&:downcase)
  end
end
