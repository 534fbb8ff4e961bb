# frozen_string_literal: true

# Changes between two images, by folder: how many, how many bytes, and the first files.
module ChangedFolders
  MOST = 400  # folders
  FILES = 100 # of a folder

  module_function

  # @param changes [Array<Evrel::Image::Compare::Change>]
  # @return [Array<Hash>] the folders with most bytes changed first
  def of(changes)
    changes.group_by { |change| File.dirname(change.path) }.map { |folder, inside| folder(folder, inside) }
           .sort_by { |one| [-one[:bytes], one[:path]] }.first(MOST)
  end

  def folder(path, changes)
    { path:, came: count(changes, :came), went: count(changes, :went), changed: count(changes, :changed),
      bytes: changes.sum { |change| (change.after || change.before).to_i },
      files: changes.first(FILES).map { |change| file(change) } }
  end

  def file(change)
    { name: File.basename(change.path), change: change.change, before: change.before, after: change.after,
      modified_at: change.modified_at&.iso8601 }
  end

  def count(changes, kind) = changes.count { |change| change.change == kind }
  private_class_method :folder, :file, :count
end
