# frozen_string_literal: true

# Checks an image against its digests, in the background.
CheckJob = Struct.new(:image_id) do
  def perform
    image = Image.find(image_id)
    result = image.open_image { |opened| Evrel::Image::Check.new(opened).run }
    keep(image, result.whole? ? 'whole' : 'damaged', result.to_h)
  rescue Evrel::Damaged, Evrel::Mismatch => e
    keep(image, 'damaged', { error: e.message, damaged: 0, places: [], files: [] })
  rescue StandardError => e
    # Not read is not damaged: the shelf may have been pulled.
    image.update!(state: 'unchecked', check_result: nil)
    Event.add('image_checked', "Image of #{Words.time(image.taken_at)} could not be checked: #{e.message}", data: { image_id: image.id })
    raise unless e.is_a?(Evrel::Error)
  end

  private

  def keep(image, state, result)
    image.update!(state:, checked_at: Time.now, check_result: result)
    Event.add('image_checked', "Image of #{Words.time(image.taken_at)} checked: #{state}", data: { image_id: image.id })
    Docket.where(closed_at: nil).find_each do |docket|
      next unless docket.image&.id == image.id && state == 'damaged' && !docket.writing?

      docket.break_seals('image', because: 'the image was found damaged')
    end
  end
end
