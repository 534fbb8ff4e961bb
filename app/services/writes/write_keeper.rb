# frozen_string_literal: true

# Begins a docket's write, stops and pauses it, and takes what is decided about it.
class WriteKeeper
  # @param docket [Docket]
  def initialize(docket)
    @docket = docket
  end

  # Begins, or goes on with, the write.
  # @return [Write]
  # @raise [Evrel::Refused] by every rule that holds at this moment
  def start(technician)
    StationOrder.check!(@docket, 'write')
    DriveTask.idle!(@docket.target.lock!, kinds: DriveTask::KINDS - ['count'], takings: true)
    attached = Guard.new(@docket, going_on: resumable&.begun? || false).check
    write = resumable || create(technician, attached).tap { |made| keep_along(made, technician) }
    write.update!(state: 'queued', stop_asked: false, pause_asked: false, error: nil, trouble: nil, port: attached.port)
    Event.add('write_queued', "Write to port #{attached.port} begun", docket: @docket, technician:)
    write.enqueue
    write
  end

  # It stops at the next safe point.
  def stop(technician)
    running!.update!(stop_asked: true)
    Event.add('write_stop', 'Stop of the write asked for', docket: @docket, technician:)
  end

  # As `stop`; but nothing went wrong, and nothing was decided against it.
  def pause(technician)
    running!.update!(pause_asked: true)
    Event.add('write_pause', 'Pause of the write asked for', docket: @docket, technician:)
  end

  # How it is to be written; see ChosenOptions#choose.
  def choose(given)
    raise Evrel::Refused.new('Layout is not sealed yet', where: 'write') unless @docket.sealed?('layout')

    ChosenOptions.new(@docket).choose(given)
  end

  # What somebody makes of the trouble that the write stopped at; it goes on from there.
  # @param choice [String] the id of one of its choices
  # @raise [Evrel::Refused] where it is none of them
  def decide(technician, choice)
    write = @docket.write
    offered = write&.trouble&.choice(choice) or
      raise Evrel::Refused.new("“#{choice}” is none of the choices that there are", where: 'choice', hint: 'list again')

    note(write, offered, technician) unless offered.choice == 'again'
    start(technician)
  end

  # @return [Array<Evrel::Restore::Order>] what it will do; empty where that cannot be said now
  def planned_orders
    return [] unless @docket.sealed?('layout')

    @planned_orders ||= read_orders(DocketLayout.new(@docket).plan, ChosenOptions.new(@docket).options)
  rescue Evrel::Error
    [] # the shelf is away; the facts say so
  end

  # @return [WriteTime, nil] how long it will take
  def expected
    return unless @docket.target && planned_orders.any?

    @expected ||= ExpectedTime.new(@docket.source, @docket.target, AttachedDrives.of(@docket.target)&.port).of(planned_orders)
  end

  private

  # How much each moves stands in the image: it is read in a process of its own.
  def read_orders(plan, options)
    told = SourceAccess.apart(@docket.source) { |opened| Evrel::Restore::Orders.for(opened, plan, options:).map(&:to_h) }
    told.map { |order| Evrel::Restore::Order.new(**order.symbolize_keys, kind: order['kind'].to_sym) }
  end

  def resumable = @docket.write&.can_go_on? ? @docket.write : nil

  def running!
    raise Evrel::Refused, 'no write is running' unless @docket.writing?

    @docket.write
  end

  def create(technician, attached)
    raise Evrel::Refused.new('it is written already', where: 'write') if @docket.write

    @docket.writes.create!(technician:, seal: @docket.seal('layout'), source: @docket.source, drive: @docket.target,
                           bench: attached.bench.name, orders: planned_orders, expected:, progress: {}, speeds: [],
                           options: ChosenOptions.new(@docket).to_h, decisions: [])
  end

  # An image of the drive that is read, from the same reading.
  def keep_along(write, technician)
    shelf = ChosenOptions.new(@docket).to_h['keep_on'] or return
    given = { 'shelf_id' => shelf, 'docket_id' => @docket.id, 'note' => "Taken while #{@docket.number} moved it" }
    TakingKeeper.new(technician).begin(@docket.source.drive, given, write:)
  end

  def note(write, offered, technician)
    trouble = write.trouble
    decided = WriteDecision.new(choice: offered.choice, title: offered.title, image_id: offered.image_id, cluster: trouble.cluster,
                                part: trouble.part, files: trouble.files, by: technician.short_name, at: Time.now.iso8601)
    write.update!(decisions: [*write.decisions, decided])
    Event.add('write_decided', "#{trouble.message}: #{offered.title}", docket: @docket, technician:, data: decided.to_h.compact)
  end
end
