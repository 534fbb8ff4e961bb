# frozen_string_literal: true

module Stations
  # Proof that it starts, and the sign-off.
  class StartStation < Station
    LONGEST = 200 # characters of a command, and of what is expected

    def view
      { waits_for: docket.waits_for('start'), check: check_view, trial: trial && TrialView.of(trial), **after_write,
        trial_missing: Evrel::Startup::Trial.missing, computer: docket.computer.name, firmware: docket.computer.firmware,
        compared: docket.write&.progress.to_h['compared'], signed_off: docket.sealed?('start'), proof: proof_view,
        hardware: docket.computer.hardware }
    end

    def facts
      return [] unless written?

      [chain_fact, trial_fact, mended_fact, old_drive_fact].compact
    end

    # @param params [Hash] "outcome" ("starts", or "does not start"), "reason": where it was seen, needed where no trial start was
    def seal(technician, params)
      check_order
      meanwhile!(params)
      reason = params['reason'].to_s.strip
      return refuse_sign_off(technician, reason) if params['outcome'] == 'does not start'

      if !trial_reached? && reason.empty?
        raise Evrel::Refused.new('no trial start of this disk reached its prompt', where: 'start',
                                                                                   hint: 'try it, or say where it was seen to start')
      end

      seal = stamp(
        technician, trial_reached? ? "seen to start\nin the emulator" : "seen to start\n#{reason}".truncate(250),
        { trial_id: trial&.id, reason: reason.presence, outcome: 'starts' },
        { facts: facts.map(&:to_h) }
      )
      DriveLock.release(docket.target)
      docket.update!(closed_at: Time.now, waits_for_technician: nil, waits_note: nil)
      Event.add('signed_off', "#{docket.computer.name} starts: signed off", docket:, technician:)
      # As it stands now, with the digest of the last event.
      seal.update!(evidence: seal.evidence.merge('report' => DocketReport.new(docket.reload).to_h))
      seal
    end

    # What is asked of this computer whenever it has started.
    # @param given [Hash] "user", "password", "command", "expect"; without a command nothing is asked
    def ask(technician, given)
      said = given.slice('user', 'command', 'expect').transform_values { |value| value.to_s.strip }
      wrong = said.find { |_, text| text.length > LONGEST || text.match?(/[[:cntrl:]]/) }
      raise Evrel::Refused.new("#{wrong.first} is one line of at most #{LONGEST} characters", where: wrong.first) if wrong
      if said['command'].present? && said['expect'].blank?
        raise Evrel::Refused.new('what is expected after the command is missing',
                                 where: 'expect')
      end

      docket.computer.update!(proof: said['command'].present? ? said : nil)
      Secrets.keep_computer(docket.computer, given['password'].to_s) if given.key?('password')
      Event.add('proof_asked', said['command'].present? ? "Asked at its start: #{said['command']}" : 'Nothing is asked at its start',
                docket:, technician:)
    end

    # @param text [String] what lspci -nn -k prints; empty forgets it
    def hardware(technician, text)
      Evrel::Startup::HardwareList.parse(text) unless text.strip.empty?
      docket.computer.update!(hardware: text.strip.presence)
      Event.add(
        'hardware', "List of hardware of #{docket.computer.name} #{text.strip.empty? ? 'forgotten' : 'taken'}",
        docket:, technician:
      )
      ChainReading.read(docket) if written?
    end

    private

    def after_write
      { mends: docket.mends.includes(:technician, :undone_by).map(&:view), pictures: StartPictures.new(docket).list, at_hand: at_hand,
        checklist: written? ? Checklist.new(docket).items : [], controller: written? ? start.controller.to_s : nil }
    end

    def written? = docket.write&.verified || false
    def start = @start ||= StartComputer.new(docket, AttachedDrives.of(docket.write&.drive))
    def check = docket.write && docket.start_checks.where(write: docket.write).order(:id).last

    def check_view
      check && { state: check.state, at: check.created_at.iso8601, steps: check.steps }
    end

    # Without its password.
    def proof_view
      (docket.computer.proof || {}).slice('user', 'command', 'expect').merge('password' => !Secrets.of_computer(docket.computer).nil?)
    end

    # Of a signed-off docket nobody asks what is plugged in now: all other drives would have to be read for that.
    def at_hand
      one = (start.at_hand unless docket.closed_at) or return
      { name: one['name'], on: one['on'] || false, boot_order: one['boot_order'] || [],
        media: in_the_way(one['boot_order'] || []).map { |other| { port: other.port, word: other.word } } }
    end

    # What would be started before the restored disk, or is taken for it.
    def in_the_way(order)
      ours = docket.write&.drive
      before = order.take_while { |name| name != "port #{AttachedDrives.of(ours)&.port}" }
      start.attached.select do |other|
        other.role == :twin || (other.starts && (before.include?("port #{other.port}") || (other.bus == 'USB' && before.include?('USB'))))
      end
    end

    def trial = docket.write && docket.trial_starts.where(write: docket.write).order(:id).last
    def trial_reached? = trial&.reached? || false

    # That it does not start is a result too: it stands in the record, and leads back to another image or to a mend.
    def refuse_sign_off(technician, reason)
      raise Evrel::Refused.new('say what was seen', where: 'reason') if reason.empty?

      Event.add(
        'does_not_start', "#{docket.computer.name} does not start: #{reason}",
        docket:, technician:, data: { trial_id: trial&.id, check: check&.state }
      )
      nil
    end

    def chain_fact
      return unless check

      { 'ok' => fact('chain', :ok, 'The start-up chain is whole', "#{check.steps.size} steps read off the disk"),
        'ask' => fact('chain', :ask, 'The start-up chain has a question', step_title('ask')),
        'no' => fact('chain', :no, 'It would not start', step_title('no')) }[check.state]
    end

    def step_title(state) = check.steps.find { |step| step['state'] == state }&.fetch('title')

    def trial_fact
      return fact('trial', :ask, 'Not yet tried', 'Start it in the emulator: the disk stays as written') unless
        trial && trial.state == 'done'
      return fact('trial', :ok, 'Seen to start', trial.message) if trial.reached?

      fact('trial', :no, trial.outcome == 'other' ? 'Another disk was started' : 'The trial start did not reach its prompt', trial.message)
    end

    # The drive that a system was moved from, once that is signed off.
    def old_drive_fact
      moved = MovedDrives.move(docket) or return
      port = AttachedDrives.of(moved.source.drive)&.port
      where = port ? "In port #{port}, with the same identity" : 'In no port now'
      return fact('old-drive', :ok, 'The old drive may be cleaned', "#{where}; at the Bench, under verdict and proof") if moved.over?

      fact('old-drive', :ask, "The old drive is kept until #{moved.kept_until.getlocal.strftime('%-d %b')}",
           "#{where}: the way back. Take it out; after that it may be cleaned")
    end

    def mended_fact
      done = docket.mends.reject(&:undone?)
      done.any? ? fact('mended', :ok, "#{done.size} thing#{'s' if done.size != 1} mended", done.map(&:title).join('; ')) : nil
    end
  end
end
