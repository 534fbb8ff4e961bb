# frozen_string_literal: true

# The bench as its page sees it: every port, whole serials, what lies beside it,
# and the computers.
class BenchView
  def to_h
    @records = AttachedDrives.records
    @verdicts = TargetVerdict.new(nil, @records)
    by_slot = @verdicts.all.to_h { |attached, verdict| [attached.slot, drive(attached, verdict)] }
    { listed_at: Time.now.iso8601, revision: Benches.revision, benches: Benches.all.map do |bench|
      { name: bench.name, offers: bench.offers }
    end,
      ports: Benches.all.flat_map do |bench|
        bench.port_names.map do |port|
          { bench: bench.name, port:, drive: by_slot[[bench.name, port]] }
        end
      end,
      unplug: UnplugCheck.latest(nil)&.view, spare: Benches.spare.map { |one| spare(one) },
      computers: Benches.offering(:computers).flat_map { |bench| bench.computers.map { |one| computer(bench, one) } } }
  end

  private

  def drive(attached, verdict)
    record = @records[attached.key]
    contents = @verdicts.contents(attached)
    about(attached).merge(switches(attached), known(record), judged(verdict)).merge(
      parts: contents.parts, hosts: contents.hosts, problem: contents.problem, written_at: contents.written_at&.iso8601,
      started_at: contents.started_at&.iso8601,
      disk_guid: contents.disk_guid, newest: LossView.newest_file(record, contents.fingerprint), task: task(record)
    )
  end

  def about(attached)
    { name: attached.handle, bench: attached.bench.name, serial: attached.serial.to_s, wwn: attached.wwn,
      maker: attached.maker, model: attached.model, bus: attached.bus,
      capacity: attached.capacity, rotating: attached.rotating == true, logical_sector: attached.logical_sector,
      physical_sector: attached.physical_sector }
  end

  def switches(attached)
    { health: attached.health.to_h, read_only: attached.read_only == true, removable: attached.removable == true,
      in_use: attached.in_use.presence, faults: attached.bench.offers?(:handling) ? attached.bench.switches(attached)[:faults] : {} }
  end

  def known(record)
    { id: record.id, owner: record.computer&.name, shelves: record.shelves.map(&:name), docket: record.docket&.number,
      protection: DriveView.protection(record) }
  end

  def judged(verdict)
    { refused: (verdict.reason.to_h if verdict.refused?),
      decisions: verdict.facts.select { |fact| verdict.decisions.include?(fact.id) }.map(&:to_h) }
  end

  def spare(attached)
    about(attached).slice(:name, :bench, :serial, :maker, :model, :bus, :capacity)
  end

  def computer(bench, one)
    { name: one['name'], bench: bench.name, firmware: one['firmware'], boot_order: one['boot_order'] || [], on: one['on'] || false }
  end

  # What is being done with it, or was done last.
  def task(record)
    last = record.drive_tasks.where(kind: DriveTask::WRITING).order(:id).last
    last && (last.open? || last.finished_at > 1.day.ago) ? TaskView.of(last) : nil
  end
end
