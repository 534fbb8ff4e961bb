# frozen_string_literal: true

# The bench as its page sees it: every port, whole serials, what lies beside it,
# and the computers.
class BenchView
  def to_h
    @records = AttachedDrives.remember
    @verdicts = TargetVerdict.new(nil, @records)
    by_port = AttachedDrives.list.to_h { |seen| [seen.port, drive(seen, @verdicts.of(seen))] }
    { listed_at: Time.now.iso8601, revision: AttachedDrives.provider.revision,
      ports: AttachedDrives.provider.port_names.map { |port| { port:, drive: by_port[port] } },
      unplug: UnplugCheck.latest(nil)&.view, spare: AttachedDrives.provider.spare.map { |seen| spare(seen) },
      computers: AttachedDrives.provider.computers.map { |one| computer(one) } }
  end

  private

  def drive(seen, verdict)
    record = @records[seen.key]
    contents = @verdicts.contents(seen)
    about(seen).merge(switches(seen), known(record), judged(verdict)).merge(
      parts: contents.parts, hosts: contents.hosts, problem: contents.problem, written_at: contents.written_at&.iso8601,
      started_at: contents.started_at&.iso8601,
      disk_guid: contents.disk_guid, newest: LossView.newest_file(record, contents.fingerprint), task: task(record)
    )
  end

  def about(seen)
    { name: seen.handle, serial: seen.serial.to_s, wwn: seen.wwn, maker: seen.maker, model: seen.model, bus: seen.bus,
      capacity: seen.capacity, rotating: seen.rotating == true, logical_sector: seen.logical_sector, physical_sector: seen.physical_sector }
  end

  def switches(seen)
    { health: seen.health.to_h, read_only: seen.read_only == true, removable: seen.removable == true, in_use: seen.in_use.presence,
      faults: seen.faults.to_h }
  end

  def known(record)
    { id: record.id, owner: record.computer&.name, shelves: record.shelves.map(&:name), docket: record.docket&.number,
      protection: DriveView.protection(record) }
  end

  def judged(verdict)
    { refused: (verdict.reason.to_h if verdict.refused?),
      decisions: verdict.facts.select { |fact| verdict.decisions.include?(fact.id) }.map(&:to_h) }
  end

  def spare(seen)
    about(seen).slice(:name, :serial, :maker, :model, :bus, :capacity)
  end

  def computer(one)
    { name: one['name'], firmware: one['firmware'], boot_order: one['boot_order'] || [], on: one['on'] || false }
  end

  # What is being done with it, or was done last.
  def task(record)
    last = record.drive_tasks.where(kind: DriveTask::WRITING).order(:id).last
    last && (last.open? || last.finished_at > 1.day.ago) ? TaskView.of(last) : nil
  end
end
