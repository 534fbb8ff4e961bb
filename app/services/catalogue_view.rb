# frozen_string_literal: true

# All images and shelves as the Images page sees them.
module CatalogueView
  module_function

  def images
    Image.includes(:computer, shelf: :drive).order(taken_at: :desc).map do |image|
      { id: image.id, computer: image.computer&.name || image.manifest.dig('computer', 'name'), state: image.state,
        taken_at: image.taken_at.iso8601, taken_as_written: image.manifest['taken_at'], used_bytes: image.used_bytes,
        size_bytes: image.document.size, shelf: image.shelf.name, reachable: image.shelf.reachable?,
        folder: image.folder, note: image.document.note, checked_at: image.checked_at&.iso8601,
        parts: image.document.partitions, drive: image.document.drive, clusters: image.document.stored_clusters,
        damage: image.check_result }
    end
  end

  def shelves
    Shelf.includes(:drive).order(:name).map do |shelf|
      attached = shelf.drive && AttachedDrives.by_serial(shelf.drive.serial)
      { id: shelf.id, name: shelf.name, kind: shelf.drive ? 'drive' : 'folder', reachable: shelf.reachable?,
        port: attached&.port, last_port: shelf.drive&.last_port, images: shelf.images.count,
        looked_at: shelf.looked_at&.iso8601 }
    end
  end
end
