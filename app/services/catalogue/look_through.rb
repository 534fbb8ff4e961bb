# frozen_string_literal: true

# Looks through a shelf and takes what is found into the catalogue.
class LookThrough
  # @param shelf [Shelf]
  def initialize(shelf)
    @shelf = shelf
  end

  # @yieldparam done [Integer] files
  # @yieldparam total [Integer]; a block that returns :stop ends it
  # @return [Hash] counts: "files", "images" (new or changed), "problems", "gone"
  # @raise [Evrel::Unreadable] where the shelf cannot be reached
  # @raise [Evrel::Stopped]
  def run(&block)
    @images = 0
    @problems = {}
    @newest = Image.maximum(:id).to_i
    look = Evrel::Shelf::Look.new(ShelfAccess.open(@shelf), known:, kept: Image.kept)
    summary = look.run do |found, done, total|
      take(found) if found
      block&.call(done, total)
    end
    settle(summary)
  end

  private

  def known
    ShelfFile.where(shelf: @shelf).where.not(stamp: nil).to_h do |file|
      [file.path, Evrel::Shelf::Look::Known.new(file.stamp, file.members)]
    end
  end

  def take(found)
    return @problems[found.path] = found.problem if found.document.nil?

    image = @shelf.images.find_or_initialize_by(path: found.path)
    image.learn(found.document, problem: found.problem)
    image.update!(file_bytes: nil)
    @images += 1
  end

  # What is not there any more stays in the catalogue, as gone: a docket may
  # name it. What others build on is no image of its own.
  def settle(summary)
    absorbed = summary.absorbed
    # What was taken in the meantime was not there when its folder was listed.
    gone = @shelf.images.on_shelf.where(id: ..@newest).where.not(path: summary.stamps.keys + @problems.keys)
    @shelf.update!(looked_at: Time.now, look_stop: false, free_bytes: nil, total_bytes: nil, **room)
    measure
    counts = { 'files' => summary.files, 'images' => @images, 'problems' => @problems.size, 'gone' => gone.count }
    Image.transaction do
      gone.update_all(gone_at: Time.now)
      @shelf.images.where(path: absorbed).update_all(gone_at: Time.now)
      keep_files(summary.stamps)
      recognise_by_disk
    end
    counts
  end

  def room = @shelf.kind == 'web' ? {} : %i[free_bytes total_bytes].zip(ShelfAccess.open(@shelf).room || []).to_h

  # What each takes of the shelf's room.
  def measure
    place = ShelfAccess.open(@shelf)
    @shelf.images.on_shelf.where(file_bytes: nil).find_each do |image|
      image.update_columns(file_bytes: Bin.bytes_of(place, image.path, image.document))
    end
  end

  # What says nothing of its computer may have the disk identity of one that
  # does: if of one alone, it is that one's.
  def recognise_by_disk
    Image.there.where(computer: nil, system_identity: nil, host: nil).where.not(disk_guid: nil).find_each do |image|
      owners = Image.where(disk_guid: image.disk_guid).where.not(computer: nil).distinct.pluck(:computer_id)
      image.update!(computer_id: owners.first) if owners.one?
    end
  end

  def keep_files(stamps)
    members = @shelf.images.on_shelf.to_h { |image| [image.path, image.manifest['members'] || []] }
    rows = stamps.map { |path, stamp| { shelf_id: @shelf.id, path:, stamp:, members: members[path], problem: nil } }
    rows += @problems.map { |path, problem| { shelf_id: @shelf.id, path:, stamp: nil, members: nil, problem: } }
    known = ShelfFile.where(shelf: @shelf).to_h { |file| [as_row(file), file.id] }
    ShelfFile.where(id: known.except(*rows).values).in_batches.delete_all
    (rows - known.keys).each_slice(1000) { |slice| ShelfFile.insert_all!(slice) }
  end

  # Most files are as they were: what is written of them is compared with what stands there.
  def as_row(file) = { shelf_id: file.shelf_id, path: file.path, stamp: file.stamp, members: file.members, problem: file.problem }
end
