# frozen_string_literal: true

# The images of a drive on top of which a new one could be taken, so that only
# what has changed is stored.
class TakingBases
  MOST = 20

  # @param drive [Drive]
  def initialize(drive)
    @drive = drive
  end

  # @return [Array<Image>] the newest first
  def all
    return [] if @drive.serial.blank?

    whole = { format: 'evrel-image', state: 'whole', unread_sectors: 0, size_bytes: @drive.capacity, locked: false }
    Image.there.where(drive_serial: @drive.serial, **whole).order(taken_at: :desc).limit(MOST)
         .select { |image| depth(image) <= Evrel::Image::Below::DEEPEST }
  end

  # @return [Array<Hash>]
  def view = all.map { |image| { id: image.id, shelf_id: image.shelf_id, taken_at: image.taken_at.iso8601, depth: depth(image) } }

  # @param id [Integer, nil]
  # @param shelf [Shelf] of the new one
  # @return [Image, nil]
  # @raise [Evrel::Refused] where nothing can be taken on top of that one
  def choose(id, shelf)
    return if id.nil?

    all.find { |image| image.id == id && image.shelf_id == shelf.id } or
      raise Evrel::Refused.new("nothing can be taken on top of that image on #{shelf.name}",
                               where: 'onto', hint: 'it must be a whole image of this drive, on the same shelf, and checked')
  end

  private

  # How many would lie below a new one.
  def depth(image) = (image.document.onto&.fetch('depth', nil) || 0) + 1
end
