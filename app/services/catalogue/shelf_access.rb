# frozen_string_literal: true

# A shelf as it is at this moment: whether it is there, where it is otherwise,
# and the way to what lies on it.
class ShelfAccess
  # @param shelf [Shelf]
  # @return [Evrel::Shelf::Folder, Evrel::Shelf::Web] the core's view of it
  # @raise [Evrel::Unreadable] where it cannot be reached now
  def self.open(shelf) = new(shelf).open

  # @param shelf [Shelf]
  # @return [Boolean]
  def self.there?(shelf) = new(shelf).there?

  # @param shelf [Shelf]
  def initialize(shelf)
    @shelf = shelf
  end

  def open
    return web if @shelf.kind == 'web'
    return Evrel::Shelf::Folder.new(@shelf.path) if @shelf.kind == 'folder' && there?

    attached = AttachedDrives.of(@shelf.drive) if there?
    raise Evrel::Unreadable.new("shelf #{@shelf.name} is not attached", where: @shelf.name, hint: 'plug its drive in') unless attached

    attached.mount(@shelf.path)
  end

  # Looked at once: a list asks for every row. A web server is not asked at all:
  # the last look, or the last thing read from it, tells.
  def there?
    return @shelf.reachable if @shelf.kind == 'web'
    return @there if defined?(@there)

    @there = (@shelf.kind == 'folder' || drive_there?) && File.directory?(@shelf.path)
  end

  # @return [String] where it is, for whoever has to fetch it
  def whereabouts
    return "On shelf #{@shelf.name}" if there?

    drive = @shelf.drive
    return "Shelf #{@shelf.name} does not answer since #{Words.time(@shelf.reachable_changed_at || @shelf.updated_at)}" unless drive

    "On drive …#{drive.identity_key[-4..]}, last seen #{Words.time(drive.last_seen_at)} on port #{drive.last_port}"
  end

  private

  def web
    Evrel::Shelf::Web.new(@shelf.path, user: @shelf.user, password: Secrets.of(@shelf), networks: Config.web_networks)
  end

  # By the drive's serial and the volume's UUID, whatever its port is today.
  def drive_there?
    attached = AttachedDrives.of(@shelf.drive) or return false
    return true if @shelf.volume_uuid.nil?

    AttachedDrives.shown(attached).parts.any? { |part| part.dig('volume', 'uuid') == @shelf.volume_uuid }
  end
end
