# frozen_string_literal: true

# One run of the taking of an image: from opening the drive to an image in the
# catalogue, or to where it goes on from.
class TakingRun
  # Seconds between two records of progress.
  def self.every = 0.4

  # The drive, or the shelf, is not there any more; it goes on when both are back.
  class Gone < Evrel::Away
    attr_reader :what

    def initialize(what, message)
      @what = what
      super(message, where: what, hint: 'plug it in again: it goes on by itself')
    end
  end

  # A limit ended a salvage before everything was tried: it goes on when somebody says so.
  class Rests < Evrel::Stopped; end
  BECAUSE = { time: 'its time is over', heat: 'the drive is too hot: let it cool down' }.freeze
  HOT = 60 # °C

  # @param taking [Taking]
  # @param shared [Evrel::Restore::SharedSource::Reader, nil] of its drive, where others read the same
  def initialize(taking, shared = nil)
    @taking = taking
    @shared = shared
    @curve = SpeedCurve.new(taking.speeds.to_a)
  end

  # @return [Image]
  # @raise [Evrel::Error] Stopped where somebody asked for it
  def run
    shelf_there!
    FileUtils.mkdir_p(File.dirname(Evrel::Linux::Beneath.path(@taking.shelf.path, @taking.folder)))
    manifest = finished || take
    image = @taking.shelf.images.find_or_initialize_by(path: @taking.folder)
    image.learn(manifest)
    image.update!(file_bytes: Bin.bytes_of(ShelfAccess.open(@taking.shelf), image.path, manifest))
    @taking.update!(image:, summary: summary(manifest),
                    progress: @taking.progress.to_h.merge('done' => @taking.progress.to_h['total']).compact)
    image.update!(opened_at: Time.now) if @taking.locked
    deepest?(image) ? make_whole(image) : keep_check(image)
    image
  end

  # Nothing of it is kept.
  def discard
    FileUtils.rm_rf([@taking.unfinished_path, @taking.salvage_path]) if @taking.shelf && ShelfAccess.there?(@taking.shelf)
  end

  private

  # Nothing could be taken on top of it any more.
  def deepest?(image) = image.document.onto && image.document.onto['depth'] >= Evrel::Image::Below::DEEPEST

  # It was read back at the end of the taking, or is now: what is made of what was salvaged, or was complete before.
  def keep_check(image)
    return (image.begin_check if @taking.checked) unless @read_back

    opened { |read| CheckOutcome.new(image).keep(@read_back, read) }
  end

  # In the background; it is checked afterwards.
  def make_whole(image)
    ImageKeeper.new(image, @taking.technician).merge
  rescue Evrel::Refused => e
    Event.add('image_merge', "Image of #{Words.time(image.taken_at)} is not made whole: #{e.message}", data: { image_id: image.id })
    image.begin_check if @taking.checked
  end

  # The folder has its name only when it is complete.
  def finished
    opened(&:manifest) if File.directory?(@taking.path)
  end

  def opened
    image = Evrel::Image.open(@taking.path, keys: Evrel::Keys.one(passphrase))
    yield image
  ensure
    image&.close
  end

  def take
    disk = attached.open
    @began = now
    return salvage(disk) if @taking.salvage

    onto = @taking.onto && File.join(@taking.shelf.path, @taking.onto.path)
    capture = Evrel::Image::Capture.new(disk, @taking.path, **how, onto:, shared: @shared, tolerate_unread: true, checked: @taking.checked)
    capture.run { |progress| record(progress) }.tap { @read_back = capture.checked }
  rescue Evrel::Away, Errno::ENODEV
    raise Gone.new('drive', "the drive was pulled out of port #{@taking.port}") unless AttachedDrives.of(@taking.drive)

    raise
  rescue SystemCallError, Evrel::Unreadable => e # what was written, or what is read back
    raise if e.is_a?(Errno::ENOSPC) || ShelfAccess.there?(@taking.shelf)

    shelf_there!
  ensure
    disk&.close
  end

  def how
    { about:, passphrase:, unfinished: @taking.unfinished_path, parts: @taking.parts, temporary: @taking.temporary,
      level: Evrel::Image::CaptureOptions::LEVELS.fetch(@taking.level) }
  end

  # @raise [Evrel::Locked] where it is not known any more
  def passphrase
    return unless @taking.locked

    Passphrases.of(@taking.image_uid) or
      raise Evrel::Locked.new('its passphrase is not known any more', where: 'passphrase', hint: 'say it again, and let it go on')
  end

  # @raise [Rests] at a limit
  def salvage(disk)
    limits = { parts: @taking.parts, retries: @taking.retries, seconds: @taking.minutes&.*(60), hot: -> { hot? } }.compact
    told = SalvageTold.new(@taking, disk)
    taken = earlier do |image|
      Evrel::Salvage.image(disk, @taking.salvage_path, @taking.path, salvage: limits, capture: how, earlier: image) do |progress|
        next record_salvage(progress, told) if progress.is_a?(Evrel::Salvage::Progress)

        @rest ||= @taking.progress.to_h.slice('bad', 'errors').merge(told.rest.stringify_keys)
        record(progress)
      end
    end
    raise Rests, BECAUSE.fetch(taken.because) unless taken.is_a?(Evrel::Image::Manifest)

    taken
  end

  def earlier(&) = @taking.fills ? ImageAccess.open(@taking.fills, &) : yield(nil)
  def hot? = (AttachedDrives.of(@taking.drive)&.health&.temperature || 0) > HOT

  # @return [Symbol, nil] :enough where what was read is to do
  def record_salvage(progress, told)
    @telling ||= Telling.new(@taking, TakingRun.every, asks: %i[stop_asked pause_asked enough_asked])
    asked = @telling.call(at: progress.pass) do
      shelf_there!
      speed = speed(progress.read)
      @taking.update!(speeds: @curve.add(speed), progress: told.of(progress).merge(speed:))
    end
    return if asked.nil?
    return :enough if @taking.reload.enough_asked && !@taking.stop_asked

    raise Evrel::Stopped, 'it was asked to end'
  end

  def shelf_there!
    raise Evrel::Refused.new('its shelf was taken away', where: 'shelf') unless @taking.shelf
    raise Gone.new('shelf', "shelf #{@taking.shelf.name} is not attached") unless ShelfAccess.there?(@taking.shelf)
  end

  # @raise [Evrel::Refused] where the drive is not as it was
  def attached
    found = AttachedDrives.of(@taking.drive) or raise Gone.new('drive', 'the drive is not attached')
    unless AttachedDrives.contents(found).fingerprint == @taking.fingerprint
      raise Evrel::Refused.new('the drive is not as it was when this was begun', where: "port #{found.port}",
                                                                                 hint: 'stop it, and begin another image')
    end

    @taking.update!(port: found.port)
    found
  end

  def record(progress)
    @packing ||= Telling.new(@taking, TakingRun.every, asks: %i[stop_asked pause_asked])
    asked = @packing.call { tell(progress) }
    raise Evrel::Stopped, 'it was asked to end' if asked == :stop
  end

  def tell(progress)
    shelf_there!
    moved = progress.done - progress.earlier
    back = read_back(progress.checked) if progress.checked
    speed = speed(progress.checked || moved)
    parts = progress.parts.map { |number, (done, total)| { number:, done:, total: } }
    told = progress.to_h.slice(:done, :total, :stored, :limit, :unread).merge(speed:, parts:, run_moved: moved, **back.to_h)
    told[:run_seconds] = (@taken || (now - @began)).round(2)
    # The curve is that of the drive.
    @taking.update!(speeds: back ? @taking.speeds : @curve.add(speed), progress: @rest.to_h.merge(told.stringify_keys))
  end

  # @param checked [Integer] bytes
  # @return [Hash]
  def read_back(checked)
    seconds = now - @began
    @last = [seconds, checked] unless @taken
    @taken ||= seconds
    { checked:, check_seconds: (seconds - @taken).round(2) }
  end

  # @param moved [Integer] bytes that this run has read
  # @return [Integer] bytes per second since it was asked last
  def speed(moved)
    seconds = now - @began
    before, earlier = @last || [0.0, moved]
    @last = [seconds, moved]
    seconds > before ? [((moved - earlier) / (seconds - before)).round, 0].max : 0
  end

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

  # What earlier takings took teaches what the next will take: only a whole run says something.
  def summary(manifest)
    progress = @taking.progress.to_h
    whole = @began && progress['run_moved'] == progress['done']
    { used: manifest.used_bytes, stored: stored(manifest), unread: manifest.unread_sectors,
      temporary: manifest.document['temporary'].to_a, not_taken: not_taken(manifest),
      run_seconds: (whole ? (@taken || (now - @began)).round(2) : nil), raw_seconds: whole ? raw : nil }.compact
  end

  def stored(manifest)
    name = Evrel::Image::Native::DISK
    File.size(File.join(@taking.path, manifest.locked ? "#{name}#{Evrel::Image::ImageFiles::LOCKED}" : name))
  end

  def not_taken(manifest) = manifest.not_taken.map { |part| part['name'].presence || "part #{part['number']}" }

  # @return [Float, nil] the middle of what was measured on the sample
  def raw
    measure = TakingMeasure.new(@taking.drive, @taking.fingerprint)
    measure.raw(parts: @taking.parts, temporary: @taking.temporary, level: @taking.level)
  end

  def about
    computer = @taking.drive.computer
    { 'id' => @taking.image_uid, 'note' => @taking.note.to_s,
      'computer' => if computer
                      { 'name' => computer.name, 'model' => computer.model, 'firmware' => computer.firmware,
                        'system_identity' => computer.system_identity }.compact
                    else
                      {}
                    end,
      'drive' => { 'maker' => @taking.drive.maker, 'model' => @taking.drive.model, 'serial' => @taking.drive.serial,
                   'capacity_bytes' => @taking.drive.capacity, 'bus' => @taking.drive.bus }.compact }
  end
end
