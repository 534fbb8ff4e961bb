# frozen_string_literal: true

# An image as the pages see it: a row of a list, or all there is to know.
module ImageView
  ROW = %i[id shelf_id computer_id state format path taken_at used_bytes size_bytes unread_sectors checked_at problem gone_at
           host uid locked opened_at names_asked file_bytes].freeze

  module_function

  # @param image [Image] with at least ROW, its shelf and computer
  def row(image, shelves)
    shelf = shelves.fetch(image.shelf_id)
    { id: image.id, computer: image.computer&.name || image.host, state: image.state, due: image.due?, path: image.path,
      format: Evrel::Image::Format.name(image.format), taken_at: image.taken_at.iso8601, used_bytes: image.used_bytes,
      size_bytes: image.size_bytes, unread: image.unread_sectors, shelf: shelf[:name], reachable: shelf[:reachable],
      checked_at: image.checked_at&.iso8601, problem: image.problem, lock: lock(image), file_bytes: image.file_bytes }
  end

  # @return [Hash, nil] open: whether what opens it is known now; opened_at: when it was last seen to open
  def lock_of(image)
    { open: !Passphrases.of(image.uid).nil?, opened_at: image.opened_at&.iso8601, names: image.names_asked }
  end

  def lock(image) = image.locked ? lock_of(image) : nil

  # @param image [Image]
  # @param alone [Boolean] with the other images of its computer, and what is done to keep it; not one of many
  def of(image, alone: true)
    document = image.document
    shelf = ShelfAccess.new(image.shelf)
    row(image, { image.shelf_id => { name: image.shelf.name, reachable: shelf.there? } }).merge(written(document)).merge(
      computer_id: image.computer_id, provisional: image.provisional?, whereabouts: shelf.whereabouts, gone: !image.gone_at.nil?,
      indexed: !image.indexed_at.nil?,
      given_up: given_up(image), note: image.note, onto: onto(image),
      spare: (spare(image) if alone), task: (ImageTaskView.latest(image) if alone),
      progress: image.check_progress, check: check(image), trial: trial(image), twins: alone ? others(image) : []
    )
  end

  # @return [Hash, nil] until: when its files are removed from its shelf; nil where they stay
  def given_up(image)
    { at: image.given_up_at.iso8601, because: image.given_up_because, until: image.bin_until&.iso8601 } if image.given_up_at
  end

  # @return [String, nil] why it could be given up
  def spare(image) = image.computer_id && KeepRule.new(Computer.where(id: image.computer_id)).spare[image.id]

  # @return [Hash, nil] of one that holds only what differs from others
  def onto(image) = image.document.onto&.then { |onto| { depth: onto['depth'] } }

  def written(document)
    { taken_as_written: document.document['taken_at'], by_file_date: document.document['taken_by_file_date'] == true,
      parts: document.parts, table: document.table_kind, drive: document.drive, clusters: document.stored_clusters,
      members: document.document['members'] || [], systems: document.systems, left_out: document.left_out }
  end

  def check(image)
    result = image.check_result || {}
    { words: ImageWords.damage(image), places: result['places'] || [], hit: result['hit'] || [], files: result['files'] || [],
      notes: notes(image, result), damaged: result['damaged'] || 0,
      usable: ImageWords.usable_parts(image), unread: ImageWords.unread(image), unread_hit: result['unread_hit'] || [] }
  end

  # What was kept whole is known before a check.
  def notes(image, result)
    (result['notes'] || image.document.document['findings'] || []) | Evrel::Image::Structure.kept(image.document)
  end

  def trial(image) = image.trial_starts.max_by(&:id)&.then { |one| TrialView.of(one) }

  # Images of the same computer, to be laid beside this one.
  def others(image)
    return [] unless image.computer_id || image.host

    same = image.computer_id ? Image.where(computer_id: image.computer_id) : Image.where(host: image.host)
    beside(same.where.not(id: image.id))
  end

  # @param images [ActiveRecord::Relation]
  # @return [Array<Hash>] those that are there, the newest first, to be laid beside something
  def beside(images)
    images.there.order(taken_at: :desc).limit(50).pluck(:id, :taken_at, :state).map do |id, taken_at, state|
      { id:, taken_at: taken_at.iso8601, state: }
    end
  end
end
