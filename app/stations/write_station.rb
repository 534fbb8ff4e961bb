# frozen_string_literal: true

module Stations
  # The orders, carrying them out, and what came of it. Sealed by the worker
  # when everything was read back and matched.
  class WriteStation < Station
    def view
      write = docket.write
      { waits_for: docket.waits_for('write'), orders: (write&.orders || planned_orders).map(&:to_h), target: target_view,
        expected: said(write ? write.expected : expected), write: write && WriteView.of(write), options: options_view(write),
        before: ahead(write) }
    end

    def facts
      return before if docket.write.nil?

      WriteLedger.new(docket.write).facts
    end

    # Begins, or goes on with, the write.
    # @raise [Evrel::Refused] by every rule that holds at this moment
    def start(technician)
      check_order
      DriveTask.idle!(docket.target.lock!, kinds: DriveTask::KINDS - ['count'])
      attached = Guard.new(docket, going_on: resumable&.begun? || false).check
      write = resumable || create(technician)
      write.update!(state: 'queued', stop_asked: false, pause_asked: false, error: nil, trouble: nil, port: attached.port)
      Event.add('write_queued', "Write to port #{attached.port} begun", docket:, technician:)
      write.enqueue
      write
    end

    # The write stops at the next safe point.
    def stop(technician)
      running!.update!(stop_asked: true)
      Event.add('write_stop', 'Stop of the write asked for', docket:, technician:)
    end

    # As `stop`; but nothing went wrong, and nothing was decided against it.
    def pause(technician)
      running!.update!(pause_asked: true)
      Event.add('write_pause', 'Pause of the write asked for', docket:, technician:)
    end

    # How it is to be written; see ChosenOptions#choose.
    def choose(given)
      raise Evrel::Refused.new('Layout is not sealed yet', where: 'write') unless docket.sealed?('layout')

      ChosenOptions.new(docket).choose(given)
    end

    # What somebody makes of the trouble that the write stopped at; it goes on from there.
    # @param choice [String] the id of one of its choices
    # @raise [Evrel::Refused] where it is none of them
    def decide(technician, choice)
      write = docket.write
      offered = write&.trouble&.choice(choice) or
        raise Evrel::Refused.new("“#{choice}” is none of the choices that there are", where: 'choice', hint: 'list again')

      note(write, offered, technician) unless choice == 'again'
      start(technician)
    end

    def seal(_technician, _params)
      raise Evrel::Refused.new('this station is sealed by a write that was read back', where: 'write')
    end

    # Called by the worker.
    def seal_verified(write)
      stamp(write.technician, "#{Evrel::Units.bytes(write.progress['to_write'])} in #{Words.span(write.seconds)}\n" \
                              'read back, matches',
            { write_id: write.id }, { outcomes: write.outcomes.map(&:to_h) })
    end

    private

    # Without what it was reckoned from.
    def said(expected) = expected&.to_h&.slice(:low, :high, :measured, :probability, :orders)

    def resumable = docket.write&.can_go_on? ? docket.write : nil

    def running!
      raise Evrel::Refused, 'no write is running' unless docket.writing?

      docket.write
    end

    def note(write, offered, technician)
      trouble = write.trouble
      decided = WriteDecision.new(choice: offered.choice, title: offered.title, image_id: offered.image_id, cluster: trouble.cluster,
                                  part: trouble.part, files: trouble.files, by: technician.short_name, at: Time.now.iso8601)
      write.update!(decisions: [*write.decisions, decided])
      Event.add('write_decided', "#{trouble.message}: #{offered.title}", docket:, technician:, data: decided.to_h.compact)
    end

    def options = ChosenOptions.new(docket)

    def options_view(write)
      return unless docket.sealed?('layout')

      (write ? write.options : options.to_h).merge('own_drive' => options.own_drive?)
    end

    # @return [Integer] jobs that the worker does first
    def ahead(write)
      return 0 unless write&.state == 'queued'

      waiting = Delayed::Job.where(queue: write.queue).where('id < ?', write.jobs.minimum(:id).to_i)
      waiting.where(priority: 0).or(waiting.where.not(locked_at: nil)).count
    end

    def create(technician)
      raise Evrel::Refused.new('it is written already', where: 'write') if docket.write

      docket.writes.create!(technician:, seal: docket.seal('layout'), source: docket.source, drive: docket.target, orders: planned_orders,
                            expected: expected, progress: {}, speeds: [], options: options.to_h, decisions: [])
    end

    def plan = layout.plan
    def layout = @layout ||= DocketLayout.new(docket)

    def planned_orders
      return [] unless docket.sealed?('layout')

      @planned_orders ||= docket.source.open_source { |opened| Evrel::Restore::Orders.for(opened, plan, options: options.options) }
    rescue Evrel::Error
      [] # the shelf is away; the facts say so
    end

    def expected
      return unless docket.target && planned_orders.any?

      @expected ||= ExpectedTime.new(docket.source, docket.target, docket.target.attached&.port).of(planned_orders)
    end

    def target_view
      drive = docket.target or return
      port = drive.attached&.port
      { port:, label: drive.serial[-4..], serial: drive.serial, capacity: drive.capacity,
        model: "#{drive.maker} #{drive.model}", attached: !port.nil?, parts: planned_parts,
        size_bytes: drive.capacity }
    end

    # As they come to lie on the target.
    def planned_parts
      docket.sealed?('layout') ? LayoutView.new(layout).parts : docket.source&.document&.partitions || []
    rescue Evrel::Error
      [] # the shelf is away; the facts say so
    end

    def before
      return [] unless docket.sealed?('layout')

      [target_fact, shelf_fact,
       fact('lock', :ok, 'Locked to this docket', 'No other docket can use the drive'), time_fact,
       scratch_fact, fact('loss', :ask, loss_title, 'From the first order on there is no way back')].compact
    end

    def loss_title = planned_parts.any? { |part| part[:kept] } ? 'What was in its place is lost' : 'Everything on it is lost'

    # Parts that are resized are made ready first.
    def scratch_fact
      needed = plan.scratch_bytes
      return if needed.zero?

      free = Evrel::Linux::FreeSpace.of(Config.var).to_a.first.to_i
      fact('scratch', free > needed ? :ok : :no, "#{Evrel::Units.bytes(needed)} of scratch room",
           "Parts are resized there first; #{Evrel::Units.bytes(free)} are free")
    rescue Evrel::Error
      nil
    end

    def target_fact
      attached = docket.target.attached
      return fact('target', :no, 'The target is not attached', 'Plug it in again: the write cannot begin') unless attached

      fact('target', :ok, 'The target is attached', "Port #{attached.port}, label …#{docket.target.serial[-4..]}")
    end

    def shelf_fact
      source = docket.source
      return fact('shelf', :no, 'The shelf is not attached', source.source_name) unless source.source_there?

      fact('shelf', :ok, 'The shelf is attached', source.source_name)
    end

    def time_fact
      range = expected
      unless range
        return fact('time', :ask, 'Not measured yet',
                    'No write over this kind of port so far: the time left shows once it runs')
      end

      fact('time', :ok, "About #{Words.span(range[:low])} to #{Words.span(range[:high])}",
           "9 times in 10, from #{range[:measured]} write#{'s' if range[:measured] > 1} measured here, read-back included")
    end
  end
end
