# frozen_string_literal: true

# Begins what is done to an image to keep it, stops it and lets it go on; and
# notes what somebody writes on one.
class ImageKeeper
  # @param image [Image]
  # @param by [Technician]
  def initialize(image, by)
    @image = image
    @by = by
  end

  # @param kind [String] "copy" or "move"
  # @param shelf [Shelf]
  # @return [ImageTask]
  # @raise [Evrel::Refused]
  def bring(kind, shelf)
    @image.lock!
    here!
    whole!
    alone! if kind == 'move'
    fits!(shelf)
    start(kind, shelf)
  end

  # One that holds only what differs from others.
  # @return [ImageTask]
  # @raise [Evrel::Refused]
  def merge
    @image.lock!
    here!
    raise Evrel::Refused.new('it is whole as it is', where: 'image') unless @image.document.onto

    fits!(@image.shelf, needed: @image.document.used_bytes, same: true)
    start('merge')
  end

  # Whether the names of the files in a locked one are in the search over all images, which asks for no passphrase.
  # @param wanted [Boolean]
  # @return [ImageTask, nil] that takes them
  # @raise [Evrel::Refused, Evrel::Locked]
  def names(wanted)
    @image.lock!
    raise Evrel::Refused.new('nothing locks this image: its names are in the search', where: 'image') unless @image.locked
    return forget_names unless wanted

    here!
    raise Evrel::Locked.new('it is locked', where: 'passphrase', hint: 'open it first') if Passphrases.of(@image.uid).nil?

    @image.update!(names_asked: true)
    start('index')
  end

  # @param task [ImageTask] of it
  # @raise [Evrel::Refused]
  def stop(task)
    return task.update!(stop_asked: true) if task.open?
    raise Evrel::Refused.new('it is over', where: 'task') unless task.state == 'failed'

    ImageMove.new(task).discard
    task.update!(state: 'stopped', error: nil, finished_at: Time.now)
  end

  # @param task [ImageTask] that failed
  # @raise [Evrel::Refused]
  def go_on(task)
    raise Evrel::Refused.new('it is over, or runs', where: 'task') unless task.state == 'failed'

    free!
    there!(@image.shelf) unless task.progress.to_h['step'] == 'remove'
    there!(task.shelf) if task.shelf
    task.update!(state: 'queued', error: nil, stop_asked: false)
    task.enqueue
    task
  end

  # @param given [Hash] "note"; "computer_id", nil where it is of none that is known here
  def change(given)
    if given.key?('note')
      @image.update!(own_note: given['note'].to_s.strip.presence)
      Event.add('image_changed', "Image of #{Words.time(@image.taken_at)}: note changed", technician: @by, data: { image_id: @image.id })
    end
    ComputerKeeper.new(@by).own(@image, given['computer_id']&.then { |id| Computer.find(id) }) if given.key?('computer_id')
    @image.reload.refresh_words
  end

  private

  def forget_names
    ImageFile.where(image: @image).delete_all
    @image.update!(names_asked: false, indexed_at: nil)
    Event.add('image_changed', "Image of #{Words.time(@image.taken_at)}: the names of its files are in the search no more",
              technician: @by, data: { image_id: @image.id })
    nil
  end

  def start(kind, shelf = nil)
    free!
    task = ImageTask.create!(image: @image, kind:, shelf:, technician: @by)
    Event.add("image_#{kind}", "#{task.work_words}: begun", technician: @by, data: { image_id: @image.id })
    task.enqueue
    task
  end

  def here!
    raise Evrel::Refused.new(@image.gone_because, where: 'image') if @image.gone_at || @image.given_up_at

    there!(@image.shelf)
    raise Evrel::Refused.new("it is not all there: #{@image.problem}", where: 'image') if @image.incomplete?
  end

  # A part of a chain is of no use without what lies below it.
  def whole!
    onto = @image.document.onto or return
    raise Evrel::Refused.new("it holds only what differs from another, and lies on #{onto['depth']} below it",
                             where: 'image', hint: 'make it whole first')
  end

  def alone!
    raise Evrel::Refused.new('a web place is only read', where: 'shelf', hint: 'copy it') if @image.shelf.kind == 'web'

    GivingUp.new(@image, @by).unused!
  end

  def free!
    other = ImageTask.open.find_by(image: @image) or return
    raise Evrel::Refused.new("#{other.work_words} is going on", where: 'image', hint: 'wait for its end, or stop it')
  end

  def fits!(shelf, needed: nil, same: false)
    raise Evrel::Refused.new("it lies on #{shelf.name} already", where: 'shelf') if !same && shelf == @image.shelf
    raise Evrel::Refused.new('a web place takes no files', where: shelf.name) if shelf.kind == 'web'

    there!(shelf)
    raise Evrel::Refused.new("nothing can be written to #{shelf.name}", where: shelf.name) unless File.writable?(shelf.path)

    free = TakingPlaces.free(shelf)
    needed ||= Bin.bytes_of(ShelfAccess.open(@image.shelf), @image.path, @image.document)
    return unless free && needed && needed > free

    raise Evrel::Refused.new("#{shelf.name} lacks #{Evrel::Units.bytes(needed - free)}", where: shelf.name, hint: 'make room there')
  end

  def there!(shelf)
    return if ShelfAccess.there?(shelf)

    raise Evrel::Refused.new("shelf #{shelf.name} is not attached", where: shelf.name, hint: 'plug its drive in')
  end
end
