# frozen_string_literal: true

# Gives the system that a docket of a run has written what makes it its own. It
# is kept like a mend: what stood there before can be brought back.
class OwnName
  # @param docket [Docket] of a run, whose write is verified
  def initialize(docket)
    @docket = docket
    @run = docket.run
  end

  # @return [Mend, nil] nil where nothing was to be done, or it failed: the docket says why
  def give
    return if !@run&.named || given?

    disk = Guard.new(@docket, going_on: true).check.open(writable: true, docket: @docket.number)
    draft = Evrel::Own.draft(disk, @run.values_of(@docket), templates: @run.templates.to_a)
    carried_out(disk, draft).tap { @docket.update!(own_error: nil) }
  rescue Evrel::Error => e
    failed([e.message, e.hint].compact.join('; '))
  ensure
    disk&.close
  end

  private

  def given? = @docket.mends.exists?(write: @docket.write, kind: 'own', undone_at: nil)

  def carried_out(disk, draft)
    return if draft.changes.empty?

    mend = @docket.mends.create!(write: @docket.write, technician: @run.technician, kind: 'own', title: draft.title, before: draft.before,
                                 after: draft.after, places: draft.to_h[:places])
    FileUtils.mkdir_p(File.dirname(mend.record_path))
    Evrel::Startup::Mend::Execution.apply(disk, draft, mend.record_path)
    Event.add('named', "#{draft.before} became #{draft.after}, read back from the disk", docket: @docket, technician: @run.technician)
    mend
  rescue Evrel::Error
    # What was not carried out whole is taken back, as far as it was.
    undo(disk, mend) if mend
    raise
  end

  def undo(disk, mend)
    Evrel::Startup::Mend::Execution.undo(disk, mend.record_path) if File.exist?(mend.record_path)
  ensure
    mend.update!(undone_at: Time.now)
  end

  def failed(why)
    @docket.update!(own_error: why)
    Event.add('name_failed', "Without its own name: #{why}", docket: @docket, technician: @run.technician)
    nil
  end
end
