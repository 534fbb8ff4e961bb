# frozen_string_literal: true

# Mends of the disk that a docket has written, and of the firmware of its
# computer: worked out, carried out, and taken back.
class MendKeeper
  FIRMWARE = %w[boot-order boot-entry].freeze
  # Drivers are many files.
  LIMITS = { memory: 2 * (1024**3), processor: 300, seconds: 600, answer: 256 * (1024**2) }.freeze

  # @param docket [Docket]
  # @param technician [Technician]
  def initialize(docket, technician)
    @docket = docket
    @technician = technician
  end

  # @param step [String] id of a step of the chain as it was read last
  # @param packs [Array<String>] names of driver packs, where those are placed
  # @return [Hash] what would be changed
  # @raise [Evrel::Error]
  def draft(step, packs: [])
    kind, about = mend_of(step, packs)
    return FirmwareMend.new(@docket).draft(kind) if FIRMWARE.include?(kind)

    on_disk(writable: false) { |disk| worked_out(kind, about, disk) }.to_h
  end

  # @param step [String]
  # @param packs [Array<String>]
  # @return [Mend] carried out
  # @raise [Evrel::Error]
  def apply(step, packs: [])
    open!
    kind, about = mend_of(step, packs)
    mend = FIRMWARE.include?(kind) ? firmware(kind) : on_disk(writable: true) { |disk| carried_out(kind, about, disk) }
    read_again
    mend
  end

  # @param mend [Mend]
  # @raise [Evrel::Refused] where something was written there since, or a later mend stands on it
  def undo(mend)
    open!
    raise Evrel::Refused.new('it was taken back already', where: 'mend') if mend.undone?

    later = @docket.mends.where(undone_at: nil).where('id > ?', mend.id)
    raise Evrel::Refused.new('take back what was mended after it first', where: 'mend') if later.any?

    mend.update!(undone_at: Time.now, undone_by: @technician)
    Event.add('mend_undone', "Taken back: #{mend.title}", docket: @docket, technician: @technician)
    if mend.on_disk?
      on_disk(writable: true) { |disk| Evrel::Startup::Mend::Execution.undo(disk, mend.record_path) }
    else
      FirmwareMend.new(@docket).undo(mend)
    end
    read_again
    mend
  end

  private

  # What is mended, and how, is what was read off the disk, not what a page says.
  def mend_of(id, packs)
    steps = @docket.start_checks.where(write: @docket.write).order(:id).last&.steps.to_a
    step = steps.find { |one| one['id'] == id && one['mend'] } or
      raise Evrel::Refused.new("the chain has no step “#{id}” that can be mended", where: 'step', hint: 'read the chain again')

    return [step['mend'], step['about'].to_h] unless step['mend'] == 'drivers'

    [step['mend'], step['about'].to_h.merge('packs' => DriverShelf.new(StartComputer.new(@docket).computer).folders(packs))]
  end

  # Only on what this docket has written and read back, and only as long as it is open.
  def open!
    raise Evrel::Refused.new('nothing has been written yet', where: 'start') unless @docket.write&.verified
    raise Evrel::Refused.new('the docket is signed off', where: 'start', hint: 'open it again first') if @docket.closed_at
    raise Evrel::Refused.new('a trial start of the disk is running', where: 'start', hint: 'stop it first') if @docket.trial_starts.exists?(
      write: @docket.write, state: 'running'
    )
  end

  def on_disk(writable:)
    raise Evrel::Refused.new('nothing has been written yet', where: 'start') unless @docket.write&.verified

    attached = writable ? Guard.new(@docket, going_on: true).check : AttachedDrives.of(@docket.write.drive)
    raise Evrel::Refused.new('the written disk is not attached', where: 'start', hint: 'plug it in again') unless attached

    disk = attached.open(writable:, docket: @docket.number)
    yield disk
  ensure
    disk&.close
  end

  # What others made is read in a process of its own; what comes of it are bytes and where they go.
  # @return [Evrel::Startup::Mend::Draft]
  def worked_out(kind, about, disk)
    told = SourceAccess.apart(@docket.source, **LIMITS) { |image| Evrel::Startup::Mend.draft(kind, disk:, about:, image: image.disk).told }
    Evrel::Startup::Mend::Draft.of(told)
  end

  def carried_out(kind, about, disk)
    draft = worked_out(kind, about, disk)
    mend = kept(kind, draft.to_h)
    FileUtils.mkdir_p(File.dirname(mend.record_path))
    Evrel::Startup::Mend::Execution.apply(disk, draft, mend.record_path)
    mend
  end

  # What is changed outside of the database cannot be taken back with it: it comes last, and the chain is read when that is kept.
  def read_again
    ActiveRecord.after_all_transactions_commit do
      ChainReading.read(Docket.find(@docket.id))
    rescue Evrel::Error, ActiveRecord::ActiveRecordError
      nil # the page can ask for it again; the mend stands, and must not be tried again
    end
  end

  def firmware(kind)
    mend = FirmwareMend.new(@docket)
    kept(kind, mend.draft(kind)).tap { |record| mend.apply(record) }
  end

  def kept(kind, draft)
    mend = @docket.mends.create!(
      write: @docket.write, technician: @technician, kind:, title: draft[:title], before: draft[:before], after: draft[:after],
      places: draft[:places] || []
    )
    Event.add('mended', "#{mend.title}: #{mend.before} became #{mend.after}".truncate(500), docket: @docket, technician: @technician)
    mend
  end
end
