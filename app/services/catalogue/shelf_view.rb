# frozen_string_literal: true

# Shelves as the pages see them; never a password.
module ShelfView
  PROBLEMS = 200 # that are listed

  module_function

  # @return [Array<Hash>]
  def all
    images = Image.there.group(:shelf_id).count
    made_of = ShelfView.made_of
    problems = ShelfFile.where.not(problem: nil).group(:shelf_id).count
    Shelf.includes(:drive).order(:name).map do |shelf|
      of(shelf, images.fetch(shelf.id, 0), problems.fetch(shelf.id, 0), made_of.fetch(shelf.id, {}))
    end
  end

  # Those that can take files now.
  # @return [Array<Hash>]
  def with_room
    Shelf.where(kind: %w[folder drive]).includes(:drive).order(:name).select { |shelf| ShelfAccess.there?(shelf) }.map do |shelf|
      { id: shelf.id, name: shelf.name, drive_id: shelf.drive_id, free_bytes: shelf.free_bytes }
    end
  end

  # @return [Hash{Integer=>Hash}] shelf → bytes of the images on it, of those that were given up, and of those that could be
  def made_of
    kept = Image.there.group(:shelf_id).sum(:file_bytes)
    given_up = Image.given_up.group(:shelf_id).sum(:file_bytes)
    spare = KeepRule.new.by_shelf
    (kept.keys | given_up.keys).to_h do |id|
      [id, { images: kept.fetch(id, 0), given_up: given_up.fetch(id, 0), spare: spare[id] }]
    end
  end

  def of(shelf, images = shelf.images.there.count, problems = shelf.shelf_files.where.not(problem: nil).count,
         made_of = ShelfView.made_of.fetch(shelf.id, {}))
    access = ShelfAccess.new(shelf)
    { id: shelf.id, name: shelf.name, kind: shelf.kind, address: shelf.kind == 'drive' ? nil : shelf.path, user: shelf.user,
      reachable: access.there?, whereabouts: access.whereabouts, since: shelf.reachable_changed_at&.iso8601, port: port(shelf),
      last_port: shelf.drive&.last_port, images:, problems:, free_bytes: shelf.free_bytes, total_bytes: shelf.total_bytes,
      made_of: made_of.presence,
      read_speed: shelf.read_speed, looked_at: shelf.looked_at&.iso8601,
      look: { state: shelf.look_state, done: shelf.look_done, total: shelf.look_total, error: shelf.look_error } }
  end

  # What could not be looked at, with the reason.
  def problems(shelf)
    shelf.shelf_files.where.not(problem: nil).order(:path).limit(PROBLEMS).pluck(:path, :problem).map do |path, problem|
      { path:, problem: }
    end
  end

  def port(shelf) = AttachedDrives.of(shelf.drive)&.port
end
