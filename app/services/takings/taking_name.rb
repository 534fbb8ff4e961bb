# frozen_string_literal: true

# The folder of a new image on its shelf: by computer and time, so that it sorts
# and somebody else finds it.
module TakingName
  module_function

  # @param drive [Drive]
  # @param contents [Evrel::Survey]
  # @param shelf [Shelf]
  # @return [String] "TKT-03/TKT-03-2026-11-27-1830", or the next that is free
  def of(drive, contents, shelf)
    whose = plain(drive.computer&.name || contents.hosts.first || [drive.maker, drive.model].compact.join(' ').presence || 'drive')
    name = "#{whose}/#{whose}-#{Time.now.strftime('%Y-%m-%d-%H%M')}"
    [name, *(2..99).map { |number| "#{name}-#{number}" }].find { |one| free?(shelf, one) }
  end

  # Whatever it comes from, it is one name of a folder.
  def plain(text) = text.scrub.tr('^A-Za-z0-9._-', '-').squeeze('-').sub(/\A[.-]+/, '')[0, 60].presence || 'drive'

  def free?(shelf, name)
    Dir.glob("#{name}{,.part-*,.salvage-*}", base: shelf.path).empty? && !Taking.unfinished.exists?(shelf:, folder: name)
  end
  private_class_method :plain, :free?
end
