# frozen_string_literal: true

# Opens a locked image with a passphrase, for the rest of the working day, and
# locks it again.
class Unlocking
  # Seconds that each wrong one in a row takes longer than the one before, up to the last.
  WAITS = [0, 1, 2, 4, 8].freeze
  LIMITS = { memory: 3 * (1024**3) }.freeze # what makes a key of a passphrase may want much of it
  PERIOD = 600 # seconds after which wrong ones are forgotten
  WRONG = {} # rubocop:disable Style/MutableConstant -- image → when the last wrong ones came
  LOCK = Mutex.new

  # A wrong passphrase: that it was tried stays in the record, though it is refused.
  class Wrong < Evrel::Locked
    def counts? = true
  end

  # @param image [Image]
  # @param technician [Technician]
  def initialize(image, technician)
    @image = image
    @technician = technician
  end

  # @param passphrase [String]
  # @raise [Evrel::Refused] where nothing locks it
  # @raise [Wrong] where that does not open it
  def open(passphrase)
    raise Evrel::Refused.new('nothing locks this image', where: 'image') unless @image.locked

    sleep WAITS[[wrong.size, WAITS.size - 1].min]
    look_inside(passphrase)
    Passphrases.keep(@image.uid, passphrase)
    LOCK.synchronize { WRONG.delete(@image.id) }
    @image.update!(opened_at: Time.now)
    note('opened with its passphrase')
  rescue Evrel::Locked => e
    LOCK.synchronize { (WRONG[@image.id] ||= []) << now }
    note('not opened: the passphrase was wrong')
    raise Wrong.new(e.message, where: e.where, hint: e.hint)
  end

  def close
    Passphrases.forget(@image.uid)
    note('locked again')
  end

  private

  # One of other makers says what it is of only now.
  def look_inside(passphrase)
    place = ShelfAccess.open(@image.shelf)
    learnt = Evrel::Apart.call(**LIMITS) do
      opened = Evrel::Image.at(place, @image.path, kept: Image.kept, keys: Evrel::Keys.one(passphrase))
      opened.manifest.document if opened.is_a?(Evrel::Image::Foreign)
    ensure
      opened&.close
    end
    @image.learn(Evrel::Image::Document.new(learnt)) if learnt
  end

  def wrong = LOCK.synchronize { (WRONG[@image.id] || []).select { |at| now - at < PERIOD } }
  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

  def note(what)
    Event.add('image_lock', "Image of #{Words.time(@image.taken_at)} on #{@image.shelf.name} #{what}",
              technician: @technician, data: { image_id: @image.id })
  end
end
