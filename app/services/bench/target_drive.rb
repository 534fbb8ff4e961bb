# frozen_string_literal: true

# An attached drive as the Target station shows it.
class TargetDrive
  # @param docket [Docket]
  # @param attached [Evrel::Bench::Drive]
  # @param record [Drive]
  # @param contents [Evrel::Survey]
  def initialize(docket, attached, record, contents)
    @docket = docket
    @attached = attached
    @record = record
    @contents = contents
  end

  # @param verdict [Evrel::Safety::Verdict]
  # @param sealed [Drive, nil]
  # @return [Hash] without the end of its serial, unless it is the sealed one
  def view(verdict, sealed)
    mine = sealed&.id == @record.id
    { id: @record.id, port: @attached.port, maker: @attached.maker, model: @attached.model, bus: @attached.bus,
      capacity: @attached.capacity, rotating: @attached.rotating, serial: mine ? @attached.serial.to_s : Evrel::Identity.mask(@attached.serial.to_s),
      provable: Evrel::Identity.provable?(@attached.serial), health: @attached.health.to_h, parts: @contents.parts,
      problem: @contents.problem, hosts: @contents.hosts, written_at: @contents.written_at&.iso8601,
      started_at: @contents.started_at&.iso8601, owner: @record.computer&.name,
      shelves: @record.shelves.map(&:name), loss: LossView.of(@docket, @record, @contents.fingerprint), verdict: words(verdict),
      **(mine ? as_sealed : {}) }
  end

  # What the seal keeps.
  def evidence(verdict, reason)
    told = words(verdict)
    told[:facts] << Evrel::Fact.new(id: 'decided', state: :ask, title: 'Decided all the same', detail: "“#{reason}”").to_h if verdict.ask?
    { identity: AttachedDrives.identity(@attached).to_h, verdict: told, parts: @contents.parts, written_at: @contents.written_at&.iso8601,
      lost: LossView.latest(@record, @contents.fingerprint)&.result&.slice('files', 'bytes', 'newer_files', 'newer_bytes', 'hosts') }
  end

  private

  def words(verdict)
    { state: verdict.state, facts: verdict.facts.map(&:to_h), reason: verdict.reason&.to_h, decisions: verdict.decisions }
  end

  # The sealed drive is shown as it was when it was sealed: the write changes it.
  def as_sealed
    @docket.seal('target').evidence.slice('verdict', 'parts', 'written_at').symbolize_keys
  end
end
