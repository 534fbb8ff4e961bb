# frozen_string_literal: true

# What a check of an image has found: its state, the names of the files inside,
# and what that means for dockets.
class CheckOutcome
  # @param image [Image]
  def initialize(image)
    @image = image
  end

  # @param result [Evrel::Image::Check::Result] of one that came to its end
  # @param opened [Evrel::Image::Native, Evrel::Image::Foreign]
  def keep(result, opened)
    # What a passphrase keeps secret is not written down in a list that needs none, unless somebody asked for it.
    FileIndex.new(@image).take(opened) if !@image.locked || @image.names_asked
    note(result.whole? ? 'whole' : 'damaged', result.to_h)
  end

  # @param error [Evrel::Error] that ended it
  def unreadable(error)
    note('damaged', { 'error' => error.message, 'damaged' => 0, 'places' => [], 'files' => [], 'notes' => [], 'hit' => [] })
  end

  private

  def note(state, result)
    @image.update!(state:, checked_at: Time.now, check_result: result, check_progress: nil)
    Event.add('image_checked', "Image of #{Words.time(@image.taken_at)} checked: #{state}", data: { image_id: @image.id })
    return unless state == 'damaged'

    Docket.open_on(@image.id).each { |docket| Unseal.from(docket, 'image', because: 'the image was found damaged') unless docket.writing? }
  end
end
