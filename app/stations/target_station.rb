# frozen_string_literal: true

module Stations
  # Which disk is overwritten. Proved from the drive's own label, whose last
  # four characters are in no answer until the seal, or by unplugging it.
  class TargetStation < Station
    def view
      return { waits_for: docket.waits_for('target'), drives: [] } unless docket.source

      sealed = docket.target
      { listed_at: Time.now.iso8601, sealed_id: sealed&.id, locked_until: label_proof.locked_until&.iso8601,
        source: source_view, unplug: UnplugCheck.latest(docket)&.view, alike: alike(sealed), shelves: sealed ? [] : ShelfView.with_room,
        drives: judged.map { |attached, verdict| target_drive(attached).view(verdict, sealed).merge(like_source: like_source?(attached)) } }
    end

    def facts = docket.seal('target')&.evidence&.dig('verdict', 'facts') || []

    # @param params [Hash] "drive_id"; "label" (the last four characters, as read off the drive; "source_label" of the drive
    #   that is restored from too, where both look alike) or
    #   "unplugged" (true after a passed unplug check), or in a run "blank" (nothing lies on it); "reason" where somebody has to decide
    def seal(technician, params)
      check_order
      meanwhile!(params)
      # Nobody else begins anything with it from here on.
      record = Drive.lock.find_by(id: params['drive_id'])
      attached, verdict = chosen(params['drive_id'])
      TargetVerdict.refuse!(attached, verdict)
      DriveTask.idle!(record, kinds: DriveTask::WRITING)
      decide(attached, verdict, params['reason'])
      prove(attached, params, technician)
      take(technician, attached, verdict, params)
    end

    # @param drive_id [Integer]
    # @return [UnplugCheck] that was begun
    def unplug(technician, drive_id)
      check_order
      attached, verdict = chosen(drive_id)
      TargetVerdict.refuse!(attached, verdict)
      UnplugProof.begin(docket, records[attached.key], attached, technician).tap do |check|
        Event.add('unplug_check', "Unplug check of port #{attached.port} started", docket:, technician:, data: { check: check.id })
      end
    end

    private

    def records = @records ||= AttachedDrives.records
    def verdicts = @verdicts ||= TargetVerdict.new(docket, records)
    def judged = @judged ||= verdicts.all
    def target_drive(attached) = TargetDrive.new(docket, attached, records[attached.key], verdicts.contents(attached))
    def label_proof = @label_proof ||= LabelProof.new(judged, docket:)

    def chosen(drive_id)
      judged.find { |drive, _| records[drive.key].id == drive_id.to_i } or
        raise Evrel::Refused.new('that drive is not attached', where: 'target', hint: 'list again')
    end

    def decide(attached, verdict, reason)
      return if !verdict.ask? || reason.present?

      titles = verdict.facts.select { |fact| verdict.decisions.include?(fact.id) }.map(&:title)
      raise Evrel::Refused.new("the drive in port #{attached.port} needs a decision: #{titles.join('; ')}",
                               where: 'target', hint: 'say why it may be overwritten')
    end

    # The drive that is restored from, where it is one.
    def source_drive
      return @source_drive if defined?(@source_drive)

      source = docket.source
      @source_drive = source.is_a?(DriveSource) ? AttachedDrives.of(source.drive) : nil
    end

    def source_view = source_drive && { port: source_drive.port, name: source_drive.name }

    # @return [Boolean] whether one could be taken for the other
    def like_source?(attached)
      return false if source_drive.nil? || source_drive.slot == attached.slot

      (source_drive.name == attached.name && source_drive.capacity == attached.capacity) ||
        !Evrel::Identity.near(attached.serial, source_drive.serial).nil?
    end

    def prove_source(attached, params, technician)
      return unless like_source?(attached)
      if params['source_label'].blank?
        raise Evrel::Refused.new("it looks like the drive in port #{source_drive.port} that you restore from",
                                 where: 'source_label', hint: 'type the end of that label too')
      end

      label_proof.check(source_drive, params['source_label'].to_s, technician)
    end

    def prove(attached, params, technician)
      prove_source(attached, params, technician)
      return UnplugProof.prove!(docket, records[attached.key]) if params['unplugged']
      return blank!(attached) if params['blank']

      label_proof.check(attached, params['label'].to_s, technician)
    end

    # Which of many blank drives it is does not matter: nothing is lost by it.
    def blank!(attached)
      return if docket.run && verdicts.contents(attached).blank?

      raise Evrel::Refused.new("the drive in port #{attached.port} is not blank, or it is no run", where: 'target', hint: 'type its label')
    end

    # How it was proved, as a word and for people.
    def proof(params, identity)
      return %w[unplug unplugged] if params['unplugged']

      params['blank'] ? ['blank', 'it was blank'] : ['label', "label …#{identity.label}"]
    end

    def take(technician, attached, verdict, params)
      record = records[attached.key]
      # Any earlier seal goes first: breaking it releases its drive.
      Unseal.from(docket, 'target', because: 'sealed anew', by: technician) if docket.sealed?('target')
      unless DriveLock.take(record, docket)
        raise Evrel::Refused.new("another docket has just sealed the drive in port #{attached.port}", where: 'target')
      end

      identity = AttachedDrives.identity(attached)
      proof, said = proof(params, identity)
      stamp(technician, "#{Evrel::Units.bytes(attached.capacity)}, port #{attached.port}\n#{said}",
            { drive_id: record.id, port: attached.port, proof:,
              decided: verdict.decisions, reason: (params['reason'].presence if verdict.ask?) },
            target_drive(attached).evidence(verdict, params['reason']))
    end

    # Serials beside the sealed one that look like it, with the places that differ.
    def alike(sealed)
      attached = AttachedDrives.of(sealed) or return []

      AttachedDrives.list.reject { |other| other.slot == attached.slot }.filter_map do |other|
        marks = Evrel::Identity.near(attached.serial, other.serial)
        { port: other.port, serial: other.serial, name: other.name, capacity: other.capacity, marks: } if marks
      end
    end
  end
end
