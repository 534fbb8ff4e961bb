# frozen_string_literal: true

module Stations
  # The orders, carrying them out, and what came of it. Sealed by the worker
  # when everything was read back and matched.
  class WriteStation < Station
    def view
      write = docket.write
      { waits_for: docket.waits_for('write'), orders: write&.orders || planned_orders,
        target: target_view, expected: write ? write.expected : expected, write: write && WriteView.of(write) }
    end

    def facts
      return before if docket.write.nil?

      docket.write.state == 'done' ? after : during
    end

    # Begins, or goes on with, the write.
    # @raise [Evrel::Refused] by every rule that holds at this moment
    def start(technician)
      check_order
      Guard.new(docket, going_on: begun?).check
      write = resumable || create(technician)
      write.update!(state: 'queued', stop_asked: false, error: nil)
      Event.add('write_queued', "Write to port #{docket.seal('target').decision['port']} begun", docket:, technician:)
      Delayed::Job.enqueue(WriteJob.new(write.id), queue: Config.bench)
      write
    end

    # The write stops at the next safe point.
    def stop(technician)
      raise Evrel::Refused, 'no write is running' unless docket.writing?

      docket.write.update!(stop_asked: true)
      Event.add('write_stop', 'Stop of the write asked for', docket:, technician:)
    end

    def seal(_technician, _params)
      raise Evrel::Refused.new('this station is sealed by a write that was read back', where: 'write')
    end

    # Called by the worker.
    def seal_verified(write)
      stamp(write.technician, "#{Evrel::Units.bytes(write.progress['to_write'])} in #{Words.span(write.seconds)}\n" \
                              'read back, matches',
            { write_id: write.id }, { outcomes: write.outcomes })
    end

    private

    def begun? = resumable ? Evrel::Restore::Journal.begun?(resumable.journal_path) : false
    def resumable = docket.write&.can_go_on? ? docket.write : nil

    def create(technician)
      raise Evrel::Refused.new('it is written already', where: 'write') if docket.write

      docket.writes.create!(technician:, image: docket.image, drive: docket.target, orders: planned_orders,
                            expected: expected, progress: {}, speeds: [])
    end

    def plan = layout.plan
    def layout = @layout ||= DocketLayout.new(docket)

    def planned_orders
      return [] unless docket.sealed?('layout')

      @planned_orders ||= docket.image.open_image { |opened| Evrel::Restore::Orders.for(opened, plan).map(&:to_h) }
    rescue Evrel::Error
      [] # the shelf is away; the facts say so
    end

    def expected
      bytes = planned_orders.sum { |order| order[:kind] == :part ? order[:bytes] : 0 }
      ExpectedTime.range(bytes, docket.target.bus) if docket.target && bytes.positive?
    end

    def target_view
      drive = docket.target or return
      port = drive.seen&.port
      { port:, label: drive.serial[-4..], serial: drive.serial, capacity: drive.capacity,
        model: "#{drive.maker} #{drive.model}", attached: !port.nil?, parts: planned_parts,
        size_bytes: drive.capacity }
    end

    # As they come to lie on the target.
    def planned_parts
      docket.sealed?('layout') ? LayoutView.new(layout).parts : docket.image&.document&.partitions || []
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

      free = Evrel::Restore::Scratch.free(Config.var)
      fact('scratch', free > needed ? :ok : :no, "#{Evrel::Units.bytes(needed)} of scratch room",
           "Parts are resized there first; #{Evrel::Units.bytes(free)} are free")
    rescue Evrel::Error
      nil
    end

    def target_fact
      attached = docket.target.seen
      return fact('target', :no, 'The target is not attached', 'Plug it in again: the write cannot begin') unless attached

      fact('target', :ok, 'The target is attached', "Port #{attached.port}, label …#{docket.target.serial[-4..]}")
    end

    def shelf_fact
      shelf = docket.image.shelf
      return fact('shelf', :no, 'The shelf is not attached', shelf.name) unless shelf.there?

      fact('shelf', :ok, 'The shelf is attached', shelf.name)
    end

    def time_fact
      range = expected
      unless range
        return fact('time', :ask, 'Not measured yet',
                    'No write over this kind of port so far: the time left shows once it runs')
      end

      fact('time', :ok, "About #{Words.span(range[:low])} to #{Words.span(range[:high])}",
           "From #{range[:measured]} write#{'s' if range[:measured] > 1} measured here, read-back included")
    end

    def during
      write = docket.write
      errors = fact('errors', :ok, 'No errors so far', 'Every cluster matched its checksum')
      errors = fact('errors', :no, 'It stopped', write.error) if write.error
      [errors, fact('lock', :ok, 'Locked to this docket', 'No other docket can use the drive'),
       fact('table', :ask, 'No partition table on it yet', 'It is written last, so that a broken write never looks whole')]
    end

    def after
      write = docket.write
      said = write.expected && "Said #{Words.span(write.expected['low'])} to #{Words.span(write.expected['high'])}"
      [fact('verified', write.verified ? :ok : :no, write.verified ? 'Read back, all matches' : 'It does not match',
            write.verified ? "#{Evrel::Units.count(compared(write))} clusters compared" : "#{write.mismatches.size} places differ"),
       fact('time', :ok, "#{Words.span(write.seconds)} in all", said || 'The first write measured here'),
       fact('skipped', :ok, 'Nothing was skipped', 'No unread cluster')]
    end

    def compared(write) = write.progress['compared'].to_i
  end
end
