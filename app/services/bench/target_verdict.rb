# frozen_string_literal: true

# Gathers what the rules need to know about an attached drive and lets them
# judge it: for a docket with its sealed image, or for work on the drive itself.
class TargetVerdict
  # @param seen [StandIns::Drive]
  # @param verdict [Evrel::Safety::Verdict]
  # @raise [Evrel::Refused] where the verdict refuses the drive
  def self.refuse!(seen, verdict)
    return unless verdict.refused?

    raise Evrel::Refused.new("the drive in port #{seen.port} is refused: #{verdict.reason.title}",
                             where: "port #{seen.port}", hint: verdict.reason.detail)
  end

  # @param docket [Docket, nil] with a sealed image
  # @param records [Hash{String=>Drive}] key → record
  def initialize(docket, records = AttachedDrives.remember)
    @docket = docket
    @records = records
    @drives = AttachedDrives.list
    @shown = AttachedDrives.shown_all(@drives)
  end

  # @param seen [StandIns::Drive]
  # @return [Evrel::Safety::Verdict]
  def of(seen) = Evrel::Safety.judge(candidate(seen), @docket ? purpose : bare(seen))

  # @return [AttachedDrives::Contents] what is on an attached drive
  def contents(seen) = @shown.fetch(seen.port)

  # @return [Array<(StandIns::Drive, Evrel::Safety::Verdict)>] by port
  def all = @drives.map { |seen| [seen, of(seen)] }

  private

  def purpose
    @purpose ||= begin
      image = @docket.image
      document = image.document
      was = image.drive_serial && Drive.find_by(serial: image.drive_serial)
      Evrel::Safety::Purpose.new(
        docket: @docket.number, computer: @docket.computer.name, needs: document.needs, least: document.least, amount: image.used_bytes,
        logical_sector: document.logical_sector, shelf: image.shelf.name, disk_guid: document.disk_guid, taken_at: image.taken_at,
        table_kind: document.table_kind, parts: document.parts, rotating: was&.rotating
      )
    end
  end

  # Nothing goes onto it: size and kind do not matter.
  def bare(seen) = Evrel::Safety::Purpose.new(needs: 0, logical_sector: seen.logical_sector, parts: [])

  def candidate(seen)
    record = @records[seen.key]
    contents = @shown.fetch(seen.port)
    Evrel::Safety::Candidate.new(
      shelves: record.shelves.map(&:name), docket: record.docket&.number, protection: record.protection, owner: record.computer&.name,
      volumes: volumes(contents), hosts: contents.hosts, disk_guid: contents.disk_guid, newest: newest(record, contents),
      newest_image: newest_image(seen), **drive(seen), **others(seen, contents)
    )
  end

  def drive(seen)
    { identity: Evrel::Identity.new(serial: seen.serial, capacity: seen.capacity), health: seen.health,
      logical_sector: seen.logical_sector, physical_sector: seen.physical_sector, read_only: seen.read_only || false,
      removable: seen.removable || false, rotating: seen.rotating, running: seen.running || false, in_use: seen.in_use.presence,
      speed: seen.bytes_per_second, bus: seen.bus }
  end

  # What the other attached drives mean for it.
  def others(seen, contents)
    same, rest = @drives.reject { |other| other.port == seen.port }.partition { |other| other.key == seen.key }
    twins = rest.select { |other| other.name == seen.name && other.capacity == seen.capacity }
    copies = rest.select { |other| contents.disk_guid && @shown.fetch(other.port).disk_guid == contents.disk_guid }
    { conflicts: same.map(&:port), twins: twins.map(&:port), same_disk: copies.map(&:port), near: near(seen, rest) }
  end

  # @return [Hash{String=>Integer}] port → characters by which its serial differs
  def near(seen, rest)
    rest.filter_map { |other| Evrel::Identity.near(seen.serial, other.serial)&.then { |at| [other.port, at.size] } }.to_h
  end

  def volumes(contents)
    return [{ 'kind' => 'a table that cannot be read', 'used_bytes' => 0 }] if contents.problem

    contents.parts.map { |part| part['volume'].merge('role' => part['role']) }
  end

  # What was counted is exact; until then, what the volumes themselves say.
  def newest(record, contents) = LossView.newest(record, contents.fingerprint) || contents.written_at

  def newest_image(seen)
    seen.serial.present? ? Image.there.where(drive_serial: seen.serial).maximum(:taken_at) : nil
  end
end
