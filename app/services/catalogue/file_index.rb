# frozen_string_literal: true

# The names of the files inside an image, so that they can be searched over all
# images at once.
class FileIndex
  BATCH = 2000
  MOST = 2_000_000 # of one image

  # @param image [Image]
  def initialize(image)
    @image = image
  end

  # @param opened [Evrel::Image::Native, Evrel::Image::Foreign]
  def take(opened)
    ImageFile.where(image: @image).in_batches(of: 10_000).delete_all
    contents = Evrel::Image::Contents.new(opened)
    contents.each_entry(most: MOST).lazy.select { |_, entry| entry.file? }.each_slice(BATCH) do |slice|
      ImageFile.insert_all!(slice.map { |part, entry| row(part, entry) })
    end
    @image.update!(indexed_at: Time.now, unsearched: contents.unsearched + contents.problems)
  end

  private

  def row(part, entry)
    { image_id: @image.id, part:, name: plain(entry.name).truncate(255), path: plain(entry.path), size: entry.size,
      modified_at: entry.modified_at }
  end

  # The database takes whole characters only.
  def plain(text) = text.encode('UTF-8', invalid: :replace, undef: :replace).scrub
end
