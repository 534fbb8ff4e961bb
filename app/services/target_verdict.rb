# frozen_string_literal: true

# Gathers what the rules need to know about an attached drive and lets them
# judge it for a docket.
class TargetVerdict
  # @param docket [Docket] with a sealed image
  # @param records [Hash{String=>Drive}] serial → record
  def initialize(docket, records = AttachedDrives.remember)
    @docket = docket
    @records = records
    @drives = AttachedDrives.list
  end

  # @param seen [StandIns::Drive]
  # @return [Evrel::Safety::Verdict]
  def of(seen) = Evrel::Safety.judge(candidate(seen), purpose)

  private

  def purpose
    image = @docket.image
    @purpose ||= Evrel::Safety::Purpose.new(
      docket: @docket.number, computer: @docket.computer.name, needs: image.needs,
      logical_sector: image.document.logical_sector, shelf: image.shelf.name, disk_guid: image.document.disk_guid
    )
  end

  def candidate(seen)
    record = @records[seen.serial]
    contents = AttachedDrives.shown(seen)
    Evrel::Safety::Candidate.new(
      identity: Evrel::Identity.new(serial: seen.serial, capacity: seen.capacity), health: seen.health,
      logical_sector: seen.logical_sector,
      physical_sector: seen.physical_sector, read_only: seen.read_only, in_use: seen.in_use,
      shelves: record.shelves.map(&:name), docket: record.docket&.number, volumes: volumes(contents),
      owner: record.computer&.name, disk_guid: contents.disk_guid, twins: twins(seen)
    )
  end

  def volumes(contents)
    return [{ 'kind' => 'a table that cannot be read', 'used_bytes' => 0 }] if contents.problem

    contents.parts.map { |part| part['volume'].merge('role' => part['role']) }
  end

  def twins(seen)
    @drives.select { |other| other.serial != seen.serial && other.name == seen.name && other.capacity == seen.capacity }
           .map(&:port)
  end
end
