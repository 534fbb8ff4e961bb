# frozen_string_literal: true

module Stations
  # Which disk is overwritten. Proved from the drive's own label: the last four
  # characters of the serial are in no answer until the seal.
  class TargetStation < Station
    TRIES = 3
    PAUSE = 60 # seconds

    def view
      return { waits_for: docket.waits_for('target'), drives: [] } unless docket.image

      sealed = docket.target
      { listed_at: Time.now.iso8601, sealed_id: sealed&.id, locked_until: locked_until&.iso8601,
        drives: judged.map { |seen, verdict| drive_view(seen, verdict, sealed).merge(as_sealed(seen, sealed)) } }
    end

    def facts = docket.seal('target')&.evidence&.dig('verdict', 'facts') || []

    # @param params [Hash] "drive_id", "label" (the last four characters, as read off the drive)
    def seal(technician, params)
      check_order
      check_pause
      seen, verdict = judged.find { |drive, _| records[drive.serial].id == params['drive_id'].to_i }
      raise Evrel::Refused.new('that drive is not attached', where: 'target', hint: 'list again') unless seen

      refuse(seen, verdict) if verdict.refused?
      prove(seen, params['label'].to_s, technician)
      take(technician, seen, verdict)
    end

    # A drive that is merely away breaks nothing: the write will not begin. One
    # that came back changed does. Once writing began, it is bound to change.
    def broken_evidence
      return if docket.write

      seen = AttachedDrives.by_serial(docket.target.serial) or return
      differences = sealed_identity.differences(AttachedDrives.identity(seen))
      "the drive on port #{seen.port} is not as it was sealed: #{differences.join('; ')}" if differences.any?
    end

    # @return [Evrel::Identity] as it was when it was sealed
    def sealed_identity
      Evrel::Identity.new(**docket.seal('target').evidence['identity'].symbolize_keys)
    end

    private

    def records = @records ||= AttachedDrives.remember

    def judged
      @judged ||= begin
        verdicts = TargetVerdict.new(docket, records)
        AttachedDrives.list.map { |seen| [seen, verdicts.of(seen)] }
      end
    end

    def refuse(seen, verdict)
      raise Evrel::Refused.new("the drive in port #{seen.port} is refused: #{verdict.reason.title}",
                               where: "port #{seen.port}", hint: verdict.reason.detail)
    end

    def prove(seen, typed, technician)
      return if seen.serial.length >= 4 && label(typed) == seen.serial[-4..].upcase

      Event.add('label_wrong', "A wrong label was typed for port #{seen.port}", docket:, technician:)
      other, verdict = judged.find { |drive, _| drive.serial[-4..].to_s.upcase == label(typed) }
      message = if other
                  "the label you read is the drive in port #{other.port}" \
                    "#{", which is refused: #{verdict.reason.title.downcase}" if verdict.refused?}"
                else
                  'no attached drive has a label that ends like this'
                end
      raise Evrel::Refused.new(message, where: 'label', hint: 'read the last four characters on the drive’s own label')
    end

    def label(typed) = typed.strip.upcase

    def take(technician, seen, verdict)
      record = records[seen.serial]
      # Any earlier seal goes first: breaking it releases its drive.
      docket.break_seals('target', because: 'sealed anew', by: technician) if docket.sealed?('target')
      unless record.lock_for(docket)
        raise Evrel::Refused.new("another docket has just sealed the drive in port #{seen.port}", where: 'target')
      end

      identity = AttachedDrives.identity(seen)
      stamp(technician, "#{Evrel::Units.bytes(seen.capacity)}, port #{seen.port}\nlabel …#{identity.label}",
            { drive_id: record.id, port: seen.port },
            { identity: identity.to_h, verdict: verdict_view(verdict), parts: AttachedDrives.contents(seen).parts,
              written_at: AttachedDrives.contents(seen).written_at&.iso8601 })
    end

    # After three wrong tries within a minute nobody tries for a minute.
    def locked_until
      times = docket.events.where(kind: 'label_wrong').where('created_at > ?', PAUSE.seconds.ago).order(:id).pluck(:created_at)
      times.last + PAUSE if times.size >= TRIES
    end

    def check_pause
      return unless (till = locked_until)

      raise Evrel::Refused.new("three wrong labels: this station is locked until #{till.getlocal.strftime('%H:%M:%S')}",
                               where: 'label', hint: 'take the drive out and read its label again')
    end

    def drive_view(seen, verdict, sealed)
      contents = AttachedDrives.shown(seen)
      record = records[seen.serial]
      serial = sealed&.id == record.id ? seen.serial : Evrel::Identity.mask(seen.serial)
      { id: record.id, port: seen.port, maker: seen.maker, model: seen.model, bus: seen.bus, capacity: seen.capacity,
        rotating: seen.rotating, serial:, health: seen.health, parts: contents.parts, problem: contents.problem,
        written_at: contents.written_at&.iso8601, owner: record.computer&.name, shelves: record.shelves.map(&:name),
        verdict: verdict_view(verdict) }
    end

    def verdict_view(verdict)
      { state: verdict.state, facts: verdict.facts.map(&:to_h), reason: verdict.reason&.to_h }
    end

    # The sealed drive is shown as it was when it was sealed: the write changes it.
    def as_sealed(seen, sealed)
      return {} unless sealed&.serial == seen.serial

      docket.seal('target').evidence.slice('verdict', 'parts', 'written_at').symbolize_keys
    end
  end
end
