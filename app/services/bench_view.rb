# frozen_string_literal: true

# The bench as its page sees it: every port, whole serials.
class BenchView
  def to_h
    records = AttachedDrives.remember
    by_port = AttachedDrives.list.to_h { |seen| [seen.port, seen] }
    { listed_at: Time.now.iso8601, revision: AttachedDrives.provider.revision,
      ports: AttachedDrives.provider.port_names.map { |port| { port:, drive: by_port[port] && drive(by_port[port], records) } },
      computers: AttachedDrives.provider.computers }
  end

  private

  def drive(seen, records)
    contents = AttachedDrives.shown(seen)
    record = records[seen.serial]
    { id: record.id, serial: seen.serial, wwn: seen.wwn, maker: seen.maker, model: seen.model, bus: seen.bus,
      capacity: seen.capacity, rotating: seen.rotating, logical_sector: seen.logical_sector,
      physical_sector: seen.physical_sector, health: seen.health, read_only: seen.read_only, parts: contents.parts,
      problem: contents.problem, written_at: contents.written_at&.iso8601, owner: record.computer&.name,
      shelves: record.shelves.map(&:name), docket: record.docket&.number, disk_guid: contents.disk_guid }
  end
end
