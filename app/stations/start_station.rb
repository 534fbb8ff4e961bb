# frozen_string_literal: true

module Stations
  # Proof that it starts, and the sign-off.
  class StartStation < Station
    def view
      { waits_for: docket.waits_for('start'), check: check_view, trial: trial && TrialView.of(trial),
        trial_missing: Evrel::Startup::Trial.missing, computer: docket.computer.name,
        compared: docket.write&.progress.to_h['compared'], signed_off: docket.sealed?('start') }
    end

    def facts
      return [] unless docket.write&.verified

      [chain_fact, trial_fact, twin_fact, age_fact,
       fact('fresh', :ask, 'Take a fresh image', 'When it has run for a day')].compact
    end

    # @param params [Hash] "reason", needed where no trial start was seen
    def seal(technician, params)
      check_order
      reason = params['reason'].to_s.strip
      if !trial_reached? && reason.empty?
        raise Evrel::Refused.new('no trial start of this disk reached its prompt', where: 'start',
                                                                                   hint: 'try it, or say where it was seen to start')
      end

      seal = stamp(technician, trial_reached? ? "seen to start\nin the emulator" : "seen to start\n#{reason}".truncate(250),
                   { trial_id: trial&.id, reason: reason.presence }, { facts: facts.map(&:to_h) })
      docket.target.release
      docket.update!(closed_at: Time.now)
      Event.add('signed_off', "#{docket.computer.name} starts: signed off", docket:, technician:)
      seal
    end

    # Reads the chain off the written disk and keeps it.
    # @return [StartCheck]
    def read_chain
      write = docket.write
      seen = write.drive.seen or
        raise Evrel::Refused.new('the written disk is not attached', where: 'start', hint: 'plug it in again')
      disk = seen.open
      steps = Evrel::Startup.chain(disk, firmware: docket.computer.firmware_settings, others: others(seen))
      docket.start_checks.create!(write:, state: Evrel::Fact.worst(steps).to_s, steps: steps.map(&:to_h))
    ensure
      disk&.close
    end

    private

    def check = docket.write && docket.start_checks.where(write: docket.write).order(:id).last

    def check_view
      check && { state: check.state, at: check.created_at.iso8601, steps: check.steps }
    end

    def trial = docket.write && docket.trial_starts.where(write: docket.write).order(:id).last
    def trial_reached? = trial&.reached? || false

    # Identities on the other attached drives, so that a twin is noticed.
    def others(seen)
      AttachedDrives.list.reject { |drive| drive.serial == seen.serial }.flat_map do |drive|
        AttachedDrives.contents(drive).parts.flat_map { |part| [part['guid'], part.dig('volume', 'uuid')] }
      end
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

      fact('trial', :no, 'The trial start did not reach its prompt', trial.message)
    end

    def twin_fact
      guid = docket.image&.document&.disk_guid
      twin = AttachedDrives.list.find do |drive|
        drive.serial != docket.write.drive.serial && AttachedDrives.contents(drive).disk_guid == guid
      end
      twin && fact('twin', :ask, "Take out the drive in port #{twin.port}", 'It has the same disk identity')
    end

    def age_fact
      age = Time.now - docket.image.taken_at
      fact('age', age > 30.days ? :ask : :ok, 'The clock',
           "The image is #{Words.span(age)} old: check date, updates and certificates")
    end
  end
end
