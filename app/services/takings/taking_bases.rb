# frozen_string_literal: true

# The images of a drive on top of which a new one could be taken, so that only
# what has changed is stored; and those that lack places, which another one could
# have.
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

  # @return [Array<Image>] that lack places, the newest first
  def lacking
    return [] if @drive.serial.blank?

    lacking = Image.there.where(drive_serial: @drive.serial, format: 'evrel-image', size_bytes: @drive.capacity)
    lacking.where('unread_sectors > 0').where.not(state: %w[damaged incomplete]).order(taken_at: :desc).limit(MOST).to_a
  end

  # @return [Array<Hash>]
  def lacking_view
    lacking.map do |image|
      { id: image.id, taken_at: image.taken_at.iso8601, unread: image.unread_sectors, there: ShelfAccess.there?(image.shelf) }
    end
  end

  # @param id [Integer, nil]
  # @return [Image, nil]
  # @raise [Evrel::Refused]
  def choose_lacking(id)
    return if id.nil?

    lacking.find { |image| image.id == id && ShelfAccess.there?(image.shelf) } or
      raise Evrel::Refused.new('nothing can be taken over from that image',
                               where: 'fills', hint: 'it must be one of this drive that lacks places, and its shelf must be there')
  end

  private

  # How many would lie below a new one.
  def depth(image) = (image.document.onto&.fetch('depth', nil) || 0) + 1
end
