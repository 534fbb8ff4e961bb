# frozen_string_literal: true

# One run of a task that copies or moves an image, makes it whole, or takes the
# names of its files.
class ImageMove
  # @param task [ImageTask]
  def initialize(task)
    @task = task
    @image = task.image
  end

  # @yieldparam progress [Hash] step, done, total; a block that returns :stop ends it
  # @return [Image, nil] that came of it, besides the one that it is about
  # @raise [Evrel::Error]
  def run(&)
    return merge(&) if @task.kind == 'merge'
    return index if @task.kind == 'index'
    return carry(&) unless arrived?

    take_away_old
  end

  # Nothing of what was copied so far is kept.
  def discard
    transfer.discard if @task.shelf && [@image.shelf, @task.shelf].all? { |shelf| ShelfAccess.there?(shelf) }
  rescue Evrel::Error
    nil # what it came from is not to be read: what was copied of it lies there under a name that no look takes for an image
  end

  private

  def merge
    shelf = ShelfAccess.open(@image.shelf)
    Evrel::Image::Merge.new(shelf.local(@image.path)).run do |done, total|
      bytes = [done, total].map { |clusters| clusters * Evrel::Image::CLUSTER }
      raise Evrel::Stopped, 'stopped' if yield({ step: 'write', done: bytes.first, total: bytes.last }) == :stop
    end
    take_in(@image, shelf, @image.path)
    @image.begin_check # it lies in another file now
    nil
  end

  def index
    ImageAccess.open(@image) { |opened| FileIndex.new(@image).take(opened) }
    nil
  end

  def transfer
    shelf = ShelfAccess.open(@image.shelf)
    members = Evrel::Image::Transfer.files(shelf, @image.path, @image.document)
    Evrel::Image::Transfer.new(shelf, @image.path, members, ShelfAccess.open(@task.shelf), tag: @task.id)
  end

  def carry
    arrived = transfer.run { |progress| yield progress.to_h }
    moved = @task.kind == 'move'
    # What lies on the old shelf is removed only when the catalogue knows where it is now.
    @task.update!(progress: { step: 'remove', old_shelf: @image.shelf_id, old_path: @image.path, manifest: @image.manifest }) if moved
    image = moved ? @image : Image.new(@image.attributes.slice('computer_id', 'computer_said', 'own_note', 'nobodys', 'opened_at'))
    arrive(image, arrived)
    take_away_old if moved
    moved ? nil : image
  end

  # @return [Boolean] whether one that moves is where it is to be, and only the old files are left
  def arrived? = @task.progress.to_h['step'] == 'remove' && @image.shelf_id == @task.shelf_id

  def take_away_old
    told = @task.progress
    Bin.remove_files(Shelf.find(told['old_shelf']), told['old_path'], Evrel::Image::Document.new(told['manifest']))
    nil
  end

  def arrive(image, arrived)
    state = arrived.proved && @image.whole? ? { state: 'whole', checked_at: Time.now, check_result: @image.check_result } : {}
    fresh = image.new_record?
    image.assign_attributes(shelf: @task.shelf, path: arrived.path)
    take_in(image, ShelfAccess.open(@task.shelf), arrived.path)
    image.update!(state: 'unchecked', checked_at: nil, check_result: nil, **state)
    index_as_before(image) if fresh && image.whole?
    image.begin_check unless image.whole? || image.locked || image.incomplete?
  end

  # The names of the files inside were read once: they are the same.
  def index_as_before(image)
    columns = ImageFile.column_names - %w[id image_id]
    names = columns.map { |name| "`#{name}`" }.join(', ')
    ImageFile.connection.execute("INSERT INTO image_files (image_id, #{names}) SELECT #{image.id}, #{names} FROM image_files " \
                                 "WHERE image_id = #{@image.id}")
    image.update!(indexed_at: @image.indexed_at, unsearched: @image.unsearched)
  end

  def take_in(image, shelf, path)
    found = Evrel::Image::Opener.new(shelf, path, kept: Image.kept)
    image.learn(found.recognise, problem: found.problem)
    image.update!(file_bytes: Bin.bytes_of(shelf, path, image.document), gone_at: nil)
  end
end
