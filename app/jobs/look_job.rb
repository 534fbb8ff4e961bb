# frozen_string_literal: true

# Looks through a shelf, in the background.
LookJob = Struct.new(:shelf_id) do
  # Seconds between two records of progress.
  def self.every = 0.5

  def perform
    @shelf = Shelf.find(shelf_id)
    Owner.of(@shelf) { work }
  end

  private

  def work
    @shelf.update!(look_state: 'running', look_done: 0, look_total: 0, look_error: nil)
    counts = LookThrough.new(@shelf).run { |done, total| tell(done, total) }
    @shelf.note_reachable(true)
    SealWatch.check_all('image') # what has gone, or is another now
    @shelf.update!(look_state: 'idle')
    Event.add('shelf_looked', "Shelf #{@shelf.name} looked through: #{words(counts)}", data: counts)
  rescue Evrel::Stopped
    return @shelf.put_back if Workplace.ending? && !@shelf.reload.look_stop

    @shelf.update!(look_state: 'idle', look_stop: false, look_error: 'Stopped before the end')
  rescue Evrel::Error => e
    return if @shelf.put_back_if_ending

    @shelf.note_reachable(false) if e.is_a?(Evrel::Unreadable)
    @shelf.update!(look_state: 'failed', look_stop: false, look_error: [e.message, e.hint].compact.join('; '))
    Event.add('shelf_looked', "Shelf #{@shelf.name} could not be looked through: #{e.message}")
  rescue *Workplace::LOST
    raise
  rescue StandardError => e
    @shelf&.update!(look_state: 'failed', look_error: 'something went wrong in Evrel itself')
    Event.add('shelf_looked', "Shelf #{@shelf&.name} could not be looked through: something went wrong in Evrel itself")
    raise e
  end

  def tell(done, total)
    @telling ||= Telling.new(@shelf, LookJob.every, asks: [:look_stop])
    @telling.call { @shelf.update!(look_done: done, look_total: total) }
  end

  def words(counts)
    "#{Evrel::Units.count(counts['files'])} files, #{counts['images']} images new or changed" \
      "#{", #{counts['gone']} gone" if counts['gone'].positive?}#{", #{counts['problems']} unreadable" if counts['problems'].positive?}"
  end
end
