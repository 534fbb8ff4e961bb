# frozen_string_literal: true

# The images that may be right for a docket, ranked by the core's rules. Images
# that are surely of other computers are left out, and only counted.
class RankedImages
  MOST = 200
  TWINS = 10 # images of equal computers that are shown

  # @param docket [Docket]
  def initialize(docket)
    @docket = docket
    @computer = docket.computer
  end

  # @return [Array<(Evrel::Match::Ranking, Image)>] the best first
  def list
    @list ||= begin
      images = candidates.uniq
      by_id = images.index_by(&:id)
      Evrel::Match.rank(images.map { |image| offer(image) }, problem).map { |ranking| [ranking, by_id.fetch(ranking.offer.key)] }
    end
  end

  # @return [Evrel::Match::Ranking]
  def of(image) = list.find { |_, one| one.id == image.id }&.first || Evrel::Match.rank([offer(image)], problem).first

  # @return [Integer] images of other computers
  def others = Image.there.count - list.size

  # @return [Evrel::Match::Problem]
  def problem
    @problem ||= Evrel::Match::Problem.new(
      name: @computer.name, system_identity: @computer.system_identity, model: @computer.model, firmware: @computer.firmware,
      host_names: [@computer.name], drive_serials: serials, disk_guids: guids, cause: @docket.cause, since: @docket.trouble_since,
      noticed: @docket.trouble_noticed || @docket.trouble_since, targets:
    )
  end

  private

  def candidates
    scope = Image.there.includes(:computer, :trial_starts, shelf: :drive)
    own = scope.where(computer: @computer).or(scope.where(host: @computer.name)).or(scope.where(drive_serial: serials))
               .or(scope.where(disk_guid: guids)).or(nameless(scope))
    own.order(taken_at: :desc).limit(MOST) + twins(scope)
  end

  def twins(scope)
    return [] unless @computer.model

    scope.where(model: @computer.model).where.not(computer: @computer).order(taken_at: :desc).limit(TWINS)
  end

  # What is not all there says nothing: it would only be in the way.
  def nameless(scope) = scope.where(system_identity: nil, host: nil, model: nil, computer: nil).where.not(state: 'incomplete')

  def serials = @serials ||= @computer.drives.map(&:serial)

  # Disk identities of its drives, as they are now or were when they were last
  # attached, and of the images that are surely of it.
  def guids
    @guids ||= (drive_guids + Image.where(computer: @computer).where.not(disk_guid: nil).distinct.pluck(:disk_guid)).uniq
  end

  def drive_guids
    @computer.drives.filter_map do |drive|
      AttachedDrives.of(drive)&.then { |attached| AttachedDrives.shown(attached).disk_guid } || drive.disk_guid
    end
  end

  # Its own old drive counts: an image may go back onto it. One that holds a shelf does not.
  def targets
    shelves = Shelf.where.not(drive: nil).includes(:drive).map { |shelf| shelf.drive.serial }
    @targets ||= AttachedDrives.list.reject { |attached| shelves.include?(attached.serial) || attached.read_only }.map(&:capacity)
  end

  def offer(image)
    shelf = access(image.shelf)
    trial = image.trial_starts.select { |one| one.reached? || one.not_started? }.max_by(&:id)
    Evrel::Match::Offer.new(
      key: image.id, document: image.document, state: image.state, checked_at: image.checked_at, due: image.due?,
      damage: ImageWords.damage(image), unread: ImageWords.unread(image), reachable: shelf.there?, where: shelf.whereabouts,
      needs: image.needed_bytes, trial: trial && (trial.reached? ? :reached : :failed), restored: restored.include?(image.uid)
    )
  end

  # One for each shelf: many images lie on it.
  def access(shelf) = (@access ||= {})[shelf.id] ||= ShelfAccess.new(shelf)

  def restored = @restored ||= Write.of_images.where(verified: true).joins(:image).distinct.pluck('images.uid').to_set
end
