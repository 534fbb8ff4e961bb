# frozen_string_literal: true

# One run of a write, from opening the image and the target to the result.
class WriteRun
  # Seconds between two records of progress.
  def self.every = 0.4
  # Bytes that must stay free where journals and working files lie.
  def self.low = 200 * (1024**2)
  CHECK_ROOM = 10 # seconds

  # What a drive gave in an earlier write counts no more in one that begins anew.
  # @param write [Write]
  # @param image [Evrel::Image::Live] or another kind, which has digests of its own
  # @param anew [Boolean]
  def self.keep_digests(write, image, anew:)
    return unless image.is_a?(Evrel::Image::Live)

    FileUtils.mkdir_p(File.dirname(write.digests_path))
    FileUtils.rm_f(write.digests_path) if anew
    image.keep_digests(Evrel::Image::FirstRead.new(write.digests_path, image.uid))
  end

  # @param write [Write]
  # @param source [Evrel::Restore::SharedSource::Reader, nil] opened for several
  def initialize(write, source = nil)
    @write = write
    @source = source
    @docket = write.docket
    @curve = SpeedCurve.new(write.speeds.to_a)
  end

  # @return [Evrel::Restore::Result]
  # @raise [Evrel::Error]
  def run
    check_room
    there!
    guard = Guard.new(@docket, going_on: @write.begun?)
    attached = checked(guard)
    moved!(attached)
    target = attached.open(writable: true, docket: @docket.number)
    with(made('other').map(&:image_id).uniq) do |others|
      source do |image|
        engine(image, target, guard, others).run(shown: @write.orders) { |progress| record(progress) }
      end
    end.tap { FileUtils.rm_f(@write.digests_path) }
  ensure
    target&.close
  end

  private

  def source(&) = @source ? yield(@source) : SourceAccess.open(@write.source, &)

  # One that was pulled while it was looked at is trouble like any other that was pulled.
  def checked(guard)
    guard.check
  rescue Evrel::Error
    there!
    raise
  end

  # One that was plugged in for a moment only: it goes on like one that was pulled while it was written to.
  def there!
    return if !@write.begun? || AttachedDrives.of(@write.drive)

    raise Evrel::Restore::Trouble.new('the drive does not answer any more', side: :target, kind: :away, where: "port #{@write.port}")
  end

  # Somebody has to say that it is the same drive that goes on in another port.
  def moved!(attached)
    return if @write.port.nil? || attached.port == @write.port || !@write.begun?

    raise Evrel::Restore::Trouble.new("the target is in port #{attached.port} now, it was in port #{@write.port}",
                                      side: :target, kind: :moved, where: "port #{attached.port}")
  end

  # Opens images one within the other.
  def with(ids, opened = [], &block)
    return yield(opened) if ids.empty?

    ImageAccess.open(Image.find(ids.first)) { |image| with(ids.drop(1), [*opened, image], &block) }
  end

  # @return [Array<WriteDecision>] what was decided in one way
  def made(choice) = @write.decisions.to_a.select { |one| one.choice == choice }

  def engine(image, target, guard, others)
    plan = DocketLayout.new(@docket).plan
    as_sealed(image, plan)
    FileUtils.mkdir_p(File.dirname(@write.journal_path))
    journal = Evrel::Restore::Journal.new(@write.journal_path, { image: @write.source.uid, plan: plan.digest, target: @write.drive.serial })
    WriteRun.keep_digests(@write, image, anew: !journal.resumed?)
    scratch = Evrel::Restore::Scratch.new(@write.scratch_path, most: Config.most('scratch'))
    Evrel::Restore::Engine.new(image:, target:, plan:, journal:, scratch:,
                               guard: -> { checked(guard) }, decisions: decisions(others), accept_unread: @docket.accepts_unread?(image),
                               **@write.options.to_h.except('keep_on').symbolize_keys)
  end

  # What was sealed is what is written: the image may have been replaced in its
  # folder, and the plan with it.
  def as_sealed(image, plan)
    return if image.manifest.id == @docket.seal('image').decision['uid'] && plan.digest == @docket.seal('layout').decision['digest']

    raise Evrel::Refused.new('the image in this place is not the one that was sealed', where: 'image', hint: 'seal the image again')
  end

  def decisions(others)
    Evrel::Restore::Decisions.new(zeros: made('zeros').map(&:cluster), others:,
                                  zeros_in: made('zeros_all').map(&:part),
                                  without: made('without').map(&:part).uniq)
  end

  def record(progress)
    @compared = progress.done if progress.kind == :read_back
    @telling ||= Telling.new(@write, WriteRun.every, asks: %i[stop_asked pause_asked])
    @telling.call(at: progress.order) do
      @last = now
      @order_began = @last unless progress.order == @order
      @order = progress.order
      check_room if @room_checked.nil? || @last - @room_checked > CHECK_ROOM
      @write.update!(progress: progress.to_h.merge(compared_bytes: @compared.to_i, **this_run(progress)),
                     speeds: @curve.add(progress.speed))
    end
  end

  # What this run has done of what it is at now, writing or reading back: an earlier run may be days ago, reading has
  # another speed, and making parts ready is neither.
  def this_run(progress)
    moved = progress.written - progress.earlier + @compared.to_i
    phase = phase(progress.kind)
    @began = [@last, moved, phase] unless @began&.last == phase
    { run_seconds: @last - @began.first, run_moved: moved - @began[1], order_seconds: @last - @order_began }
  end

  def phase(kind)
    return :reading if @compared

    kind == :part ? :writing : :before
  end

  # The clock may be set meanwhile.
  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

  # Without a journal a power cut would cost the whole write: better to stop while one can.
  def check_room
    @room_checked = now
    free = Evrel::Linux::FreeSpace.of(Config.var).to_a.first.to_i
    return if free > WriteRun.low

    raise Evrel::Restore::Trouble.new("only #{Evrel::Units.bytes(free)} are left where the journal lies",
                                      side: :scratch, kind: :full, where: 'the data folder', hint: 'make room there')
  end
end
