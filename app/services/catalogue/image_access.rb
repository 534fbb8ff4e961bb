# frozen_string_literal: true

# The way to what an image holds, on its shelf.
class ImageAccess
  # @param image [Image]
  # @see #open
  def self.open(image, unpack: nil, &block) = new(image).open(unpack:, &block)

  # @param image [Image]
  def initialize(image)
    @image = image
  end

  # What the records know of the way is looked up: `open` asks them nothing any more.
  # @return [ImageAccess] itself
  # @raise [Evrel::Error] where its shelf is not there
  def ready
    place
    keys
    self
  end

  # @yieldparam opened [Evrel::Image::Native, Evrel::Image::Foreign] closed afterwards
  # @param unpack [#call, nil] is told how far the unpacking of a packed image is; without it none is unpacked
  # @raise [Evrel::Error]
  def open(unpack: nil)
    unless unpack || !@image.provisional?
      raise Evrel::Refused.new('the image is packed, and was not unpacked yet', where: @image.path, hint: 'check it: that unpacks it')
    end

    opened = Evrel::Image.at(place, @image.path, kept: Image.kept, keys:, &unpack)
    yield opened
  ensure
    opened&.close
  end

  # @return [Evrel::Keys]
  def keys = @keys ||= @image.locked ? Evrel::Keys.new({ @image.uid => Passphrases.of(@image.uid) }.compact) : Evrel::Keys.none

  def there? = ShelfAccess.there?(@image.shelf)

  private

  def place = @place ||= ShelfAccess.open(@image.shelf)
end
