# frozen_string_literal: true

require 'etc'

# Adds, changes and takes away shelves.
class ShelfKeeper
  # @param technician [Technician]
  def initialize(technician)
    @technician = technician
  end

  # @param given [Hash] "kind", "name"; "path" of a folder; "drive_id" and "volume_uuid" of a drive; "address",
  #   "user" and "password" of a web place
  # @return [Shelf]
  # @raise [Evrel::Refused, Evrel::Unreadable] where there is nothing to read
  # @raise [ActiveRecord::RecordInvalid]
  def add(given)
    shelf = Shelf.new(name: given['name'].to_s.strip, kind: given['kind'].to_s)
    shelf.validate
    raise ActiveRecord::RecordInvalid, shelf if shelf.errors.include?(:kind) || shelf.errors.include?(:name)

    send(:"as_#{shelf.kind}", shelf, given)
    Shelf.transaction do
      shelf.save!
      Secrets.keep(shelf, given['password']) if shelf.kind == 'web'
      Event.add('shelf_added', "Shelf #{shelf.name} added", technician: @technician)
    end
    shelf
  end

  # @param given [Hash] "name", and of a web place "address", "user", "password"
  def change(shelf, given)
    shelf.name = given['name'].to_s.strip if given.key?('name')
    shelf.user = given['user'].presence if shelf.kind == 'web' && given.key?('user')
    shelf.save!
    Secrets.keep(shelf, given['password']) if shelf.kind == 'web' && given['password'].present?
    Event.add('shelf_changed', "Shelf #{shelf.name} changed", technician: @technician)
    shelf
  end

  # Its images leave the catalogue with it, unless a docket names one.
  # @raise [Evrel::Refused]
  def take_away(shelf)
    ids = shelf.images.pluck(:id)
    if Write.exists?(source_type: 'Image', source_id: ids) || Docket.open_on(ids).exists?
      raise Evrel::Refused.new("dockets name images of #{shelf.name}", where: shelf.name, hint: 'they would lose what they were sealed on')
    end

    idle!(shelf, ids)

    Shelf.transaction do
      forget_work(shelf, ids)
      Proof.where(image_id: ids).delete_all
      TrialInput.where(trial_start: TrialStart.where(image_id: ids)).delete_all
      TrialStart.where(image_id: ids).delete_all
      ImageFile.where(image_id: ids).in_batches.delete_all
      Image.where(id: ids).delete_all
      shelf.shelf_files.delete_all
      shelf.destroy!
      Event.add('shelf_removed', "Shelf #{shelf.name} taken away; nothing on it was touched", technician: @technician)
    end
    Secrets.forget(shelf)
  end

  private

  # What was saved on it stays there, and stays told.
  def forget_work(shelf, ids)
    [DriveTask, Taking].each { |kind| kind.where(shelf:).update_all(shelf_id: nil) }
    Taking.where(image_id: ids).update_all(image_id: nil)
    Taking.where(onto_id: ids).update_all(onto_id: nil)
    ImageTask.where(image_id: ids).or(ImageTask.where(shelf:)).or(ImageTask.where(made_id: ids)).delete_all
  end

  # @raise [Evrel::Refused] while something is written to it, or read from it
  def idle!(shelf, images)
    work = DriveTask.open.find_by(shelf:) || Taking.unfinished.find_by(shelf:) ||
           ImageTask.open.where(shelf:).or(ImageTask.open.where(image_id: images)).first ||
           TrialStart.find_by(image_id: images, state: %w[queued running]) || shelf.images.at_work.first ||
           (shelf if %w[queued running].include?(shelf.look_state)) or return
    raise Evrel::Refused.new("#{work.work_words} is going on", where: shelf.name, hint: 'wait for its end, or stop it')
  end

  def as_folder(shelf, given)
    path = given['path'].to_s.strip
    raise Evrel::Refused.new('a folder is named by its full path', where: 'path') unless path.start_with?('/')

    unless File.directory?(path) && File.readable?(path)
      hint = "is the share mounted, and may the user #{Etc.getpwuid.name} read it?"
      raise Evrel::Refused.new("#{path} is no folder that can be read", where: 'path', hint:)
    end

    allowed!(path)
    taken!(path)
    shelf.path = path
  end

  # Whoever adds one reads all that is in it.
  def allowed!(path)
    real = File.realpath(path)
    roots = Config.shelf_roots.filter_map { |root| File.realpath(root) if File.directory?(root) }
    return if roots.any? { |root| below?(real, root) && (!own?(real) || own?(root)) }

    hint = "choose a folder below #{Config.shelf_roots.first(5).join(', ')}, or have EVREL_SHELF_ROOTS name another"
    raise Evrel::Refused.new("#{path} is not a place for a shelf here", where: 'path', hint:)
  end

  # Of what Evrel itself keeps, nothing becomes a shelf.
  def own?(path) = [Config.var, Config::ROOT].any? { |own| below?(path, File.realpath(own)) || below?(File.realpath(own), path) }
  def below?(path, root) = path == root || path.start_with?("#{root.chomp('/')}/")

  def as_drive(shelf, given)
    drive = Drive.find_by(id: given['drive_id'])
    attached = AttachedDrives.of(drive)
    raise Evrel::Refused.new('that drive is not attached', where: 'drive', hint: 'plug it in') unless attached

    uuids = AttachedDrives.shown(attached).parts.filter_map { |part| part.dig('volume', 'uuid') }
    uuid = given['volume_uuid'].presence || uuids.first
    raise Evrel::Refused.new('there is no such volume on that drive', where: 'drive') unless uuids.include?(uuid)

    shelf.assign_attributes(drive:, volume_uuid: uuid, path: attached.bench.mount_point(attached))
    raise Evrel::Refused.new('that volume is not mounted', where: 'drive') unless File.directory?(shelf.path)

    taken!(shelf.path)
  end

  def as_web(shelf, given)
    address = given['address'].to_s.strip
    user = given['user'].presence
    # Asked once, so that a slip is noticed at once.
    Evrel::Shelf::Web.new(address, user:, password: given['password'], networks: Config.web_networks).siblings('x')
    taken!(address)
    shelf.assign_attributes(path: address, user:)
  end

  def taken!(path)
    other = Shelf.find_by(path:) or return
    raise Evrel::Refused.new("that is shelf #{other.name} already", where: 'path')
  end
end
