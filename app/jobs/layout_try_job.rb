# frozen_string_literal: true

# Carries out a layout on a throw-away file as large as the target, and lets
# outside tools judge it. The target is not touched.
LayoutTryJob = Struct.new(:try_id) do
  def self.every = 0.5

  def perform
    @try = LayoutTry.find(try_id)
    Owner.of(@try) { work } if @try.open?
  end

  private

  def work
    # Begun anew where the worker was killed in the middle.
    @try.discard_files
    @try.update!(state: 'running')
    facts = run
    wrong = facts.count { |fact| fact.state == :no }
    close('done', facts: facts.map(&:to_h))
    Event.add('layout_tried', wrong.zero? ? 'Dry run: nothing wrong' : "Dry run: #{wrong} findings", docket: @try.docket)
  rescue Evrel::Stopped
    return @try.put_back if Workplace.ending? && !@try.reload.stop_asked

    close('stopped')
  rescue *Workplace::LOST
    raise
  rescue StandardError => e
    return if @try.put_back_if_ending

    close('failed', error: [e.message, e.try(:hint)].compact.join('; '))
    raise unless e.is_a?(Evrel::Error) || e.is_a?(SystemCallError)
  end

  def run
    layout = DocketLayout.new(@try.docket)
    plan = layout.plan_of(@try.wish).valid!
    FileUtils.mkdir_p(File.dirname(@try.path))
    check_room(plan, @try.docket.source)
    Evrel::Disk::File.create(@try.path, plan.target_size)
    result = Evrel::Disk::File.open(@try.path, writable: true, logical_sector: plan.target.sector) { |disk| write(layout, plan, disk) }
    tell('judge', 0, 0)
    not_grown(result) + Evrel::Layout::Judges.new(@try.path, sector: plan.target.sector, scratch: @try.scratch).facts
  ensure
    Evrel::Disk::Layer.clear(@try.scratch)
  end

  def not_grown(result)
    result.not_grown.map do |number, why|
      Evrel::Fact.new(id: "not-grown-#{number}", state: :no, title: "Partition #{number} cannot be grown", detail: why, part: number)
    end
  end

  # Only the table of the target comes along where its other parts stay.
  def write(layout, plan, disk)
    layout.target_with_table.table.write(disk) if plan.part_restore?
    SourceAccess.open(@try.docket.source) do |image|
      accept_unread = @try.docket.accepts_unread?(image)
      scratch = Evrel::Restore::Scratch.new(@try.scratch, most: Config.most('scratch'))
      Evrel::Restore::Engine.new(image:, target: disk, plan:, accept_unread:, read_back: false, scratch:)
                            .run { |progress| tell(progress.order, progress.done, progress.total) }
    end
  end

  def check_room(plan, image)
    needed = plan.scratch_bytes + image.used_bytes
    free = Evrel::Linux::FreeSpace.of(File.dirname(@try.path)).to_a.first.to_i
    return if free > needed

    raise Evrel::DoesNotFit.new("the dry run needs #{Evrel::Units.bytes(needed)}, there are #{Evrel::Units.bytes(free)}",
                                where: 'scratch room')
  end

  def tell(order, done, total)
    @telling ||= Telling.new(@try, LayoutTryJob.every)
    @telling.call(at: order) { @try.update!(progress: { order:, done:, total: }) }
  end

  def close(state, **fields)
    @try.discard_files unless state == 'done'
    @try.update!(state:, **fields)
    words = { 'stopped' => 'Dry run stopped', 'failed' => "Dry run failed: #{fields[:error]}" }[state]
    Event.add("layout_try_#{state}", words, docket: @try.docket) if words
  end
end
