# frozen_string_literal: true

module Stations
  # The orders, carrying them out, and what came of it. Sealed by the worker
  # when everything was read back and matched.
  class WriteStation < Station
    def view
      write = docket.write
      { waits_for: docket.waits_for('write'), orders: (write&.orders || planned_orders).map(&:to_h), target: target_view,
        expected: said(write ? write.expected : expected), write: write && WriteView.of(write), options: options_view(write),
        before: ahead(write), along: along(write) }
    end

    def facts
      return before if docket.write.nil?

      WriteLedger.new(docket.write).facts
    end

    def seal(_technician, _params)
      raise Evrel::Refused.new('this station is sealed by a write that was read back', where: 'write')
    end

    # Called by the worker.
    def seal_verified(write)
      stamp(write.technician, "#{Evrel::Units.bytes(write.progress['to_write'])} in #{Words.span(write.seconds)}\n" \
                              'read back, matches',
            { write_id: write.id }, { outcomes: write.outcomes.to_a.map(&:to_h) })
    end

    private

    # Without what it was reckoned from.
    def said(expected) = expected&.to_h&.slice(:low, :high, :measured, :probability, :orders)

    def options = ChosenOptions.new(docket)

    def options_view(write)
      return unless docket.sealed?('layout')

      { **(write ? write.options : options.to_h), 'own_drive' => options.own_drive?, 'from_drive' => docket.source.is_a?(DriveSource),
                                                  'shelves' => write ? [] : options.shelves }
    end

    # @return [Hash, nil] the image that is taken of the source on the way
    def along(write)
      taking = write&.takings&.max_by(&:id) or return
      { id: taking.id, shelf: taking.shelf&.name, state: taking.state }
    end

    # @return [Integer] jobs that the worker does first
    def ahead(write)
      return 0 unless write&.state == 'queued'

      waiting = Delayed::Job.where(queue: write.queue).where('id < ?', write.jobs.minimum(:id).to_i)
      waiting.where(priority: 0).or(waiting.where.not(locked_at: nil)).count
    end

    def keeper = @keeper ||= WriteKeeper.new(docket)
    def planned_orders = keeper.planned_orders
    def expected = keeper.expected
    def plan = layout.plan
    def layout = @layout ||= DocketLayout.new(docket)

    def target_view
      drive = docket.target or return
      port = AttachedDrives.of(drive)&.port
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
      attached = AttachedDrives.of(docket.target)
      return fact('target', :no, 'The target is not attached', 'Plug it in again: the write cannot begin') unless attached

      fact('target', :ok, 'The target is attached', "Port #{attached.port}, label …#{docket.target.serial[-4..]}")
    end

    def shelf_fact
      source = docket.source
      return fact('shelf', :no, 'The shelf is not attached', source.source_name) unless SourceAccess.there?(source)

      fact('shelf', :ok, source.is_a?(DriveSource) ? 'The source is attached' : 'The shelf is attached', source.source_name)
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
