# frozen_string_literal: true

# Checks an image in the background: unpacks it first where it is packed, reads
# every cluster, and notes the names of the files inside.
CheckJob = Struct.new(:image_id) do
  # Seconds between two records of progress.
  def self.every = 0.5

  def perform
    @image = Image.find(image_id)
    Owner.of(@image) { work }
  end

  private

  def work
    return pause(@image.check_result) if @image.pause_asked # while it waited for its turn

    @image.update!(state: 'checking')
    begun = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    ImageAccess.open(@image, unpack: ->(done, total) { tell('unpacking', done, total) }) { |opened| check(opened, begun) }
    @image.shelf.note_reachable(true)
  rescue Evrel::Stopped
    pause(@image.check_result)
  rescue Evrel::Damaged, Evrel::Mismatch => e
    return if @image.put_back_if_ending

    CheckOutcome.new(@image).unreadable(e)
  rescue *Workplace::LOST
    raise
  rescue StandardError => e
    return if @image.put_back_if_ending

    # Not read is not damaged: the shelf may have been pulled.
    @image.shelf.note_reachable(false) if e.is_a?(Evrel::Unreadable)
    @image.update!(state: 'unchecked', check_result: nil, check_progress: nil)
    Event.add('image_checked', "Image of #{Words.time(@image.taken_at)} could not be checked: #{e.message}", data: { image_id: })
    raise unless e.is_a?(Evrel::Error)
  end

  def check(opened, begun)
    @image.learn(opened.manifest) if opened.is_a?(Evrel::Image::Foreign)
    result = checker(opened).run { |done, total| tell('checking', done, total) }
    return pause(result.to_h.stringify_keys) if result.position

    seconds = Process.clock_gettime(Process::CLOCK_MONOTONIC) - begun
    @image.shelf.update!(read_speed: result.clusters * Evrel::Image::CLUSTER / seconds) if result.clusters > 100
    CheckOutcome.new(@image).keep(result, opened)
  end

  def checker(opened)
    before = @image.check_result
    if before && before['position']
      from = Evrel::Image::Check::Result.new(**before.symbolize_keys.slice(*Evrel::Image::Check::Result.members))
    end
    Evrel::Image::Check.new(opened, from:, digests: Image.kept.digests_at(@image.uid))
  end

  def tell(doing, done, total)
    @telling ||= Telling.new(@image, CheckJob.every, asks: [:pause_asked])
    @telling.call(at: doing) { @image.update!(check_progress: { doing:, done:, total: }) }
  end

  # What was asked for by nobody goes on from here by itself.
  def pause(result)
    if Workplace.ending? && !@image.reload.pause_asked
      @image.update!(check_result: result)
      return @image.put_back
    end

    @image.update!(state: 'paused', pause_asked: false, check_result: result)
    Event.add('image_checked', "Check of the image of #{Words.time(@image.taken_at)} paused", data: { image_id: })
  end
end
