# frozen_string_literal: true

# Images that were given up lie where they were for some days, and can be taken
# back. Then their files are removed from their shelf.
module Bin
  DAYS = 14
  EVERY = 60 # seconds between two looks

  module_function

  # From now on, in a thread of its own.
  def watch
    Rounds.every(EVERY) { empty }
  end

  # Removes the files of all whose days are over, where their shelf is there. A day is one on which it was seen to lie here:
  # a clock that is set ahead makes none.
  # @return [Array<Image>]
  def empty(now = Time.now)
    lying = Image.given_up.where.not(bin_until: nil).includes(:shelf)
    lying.each { |image| count(image, now.to_date) }
    lying.select { |image| image.bin_until < now && image.bin_days >= DAYS }.select do |image|
      remove(image) if ShelfAccess.there?(image.shelf)
    rescue Evrel::Error
      false # somebody needs it after all, or nothing can be written there: it is tried again
    end
  end

  # @param image [Image] that was given up
  # @param by [Technician, nil] nil where its days are over
  # @raise [Evrel::Refused, Evrel::Unreadable]
  def remove(image, by: nil)
    raise Evrel::Refused.new('it was not given up', where: 'image') unless image.given_up_at && image.gone_at.nil?

    GivingUp.new(image, by).idle!
    remove_files(image.shelf, image.path, image.document)
    image.update!(gone_at: Time.now, bin_until: nil)
    Event.add('image_removed', "Image of #{Words.time(image.taken_at)}: its files were removed from #{image.shelf.name}",
              technician: by, data: { image_id: image.id })
  end

  # @param document [Evrel::Image::Document] of the image
  # @param path [String] of it on the shelf
  def remove_files(shelf, path, document)
    raise Evrel::Refused.new('a web place is only read', where: shelf.name) if shelf.kind == 'web'

    place = ShelfAccess.open(shelf)
    files = Evrel::Image::Transfer.files(place, path, document)
    place.remove(files - used_by_others(shelf, path))
  end

  # @return [Integer, nil] bytes of its files, nil where they cannot be looked at
  def bytes_of(place, path, document)
    Evrel::Image::Transfer.files(place, path, document).filter_map { |file| place.entry(file)&.size }.sum
  rescue Evrel::Error
    nil
  end

  def count(image, today) = image.bin_day == today || image.update_columns(bin_days: image.bin_days + 1, bin_day: today)

  # Files that other images are made of too.
  def used_by_others(shelf, path)
    shelf.images.on_shelf.where.not(path:).where.not(format: Evrel::Image::Manifest::FORMAT).pluck(:manifest)
         .flat_map { |manifest| (manifest.is_a?(String) ? JSON.parse(manifest) : manifest)['members'].to_a }
  end
  private_class_method :used_by_others, :count
end
