# frozen_string_literal: true

# A saved disk on a shelf. state: unchecked, checking, paused, whole, damaged or
# incomplete (not all of its files are there).
class Image < ActiveRecord::Base
  include Worked
  include Restorable

  # A check older than this is due again.
  CHECK_HOLDS = 180.days

  belongs_to :shelf
  belongs_to :computer, optional: true
  has_many :trial_starts
  has_many :image_files, dependent: :delete_all
  has_many :image_tasks

  attribute :manifest, :json
  attribute :check_result, :json
  attribute :check_progress, :json
  attribute :unsearched, :json

  scope :on_shelf, -> { where(gone_at: nil) }
  # Those that somebody may be offered.
  scope :there, -> { on_shelf.where(given_up_at: nil) }
  scope :given_up, -> { on_shelf.where.not(given_up_at: nil) }
  # A check that waits for its turn is marked as one that runs.
  scope :at_work, -> { where(state: 'checking') }
  scope :waiting, -> { none }

  def job = CheckJob.new(id)
  def queue = Config.reading
  def work_words = "Check of the image of #{Words.time(taken_at)}"

  # Puts its check into the queue, unless one is under way; what a paused one has read is kept.
  def begin_check
    return if state == 'checking'

    update!(state: 'checking', pause_asked: false, check_progress: nil)
    enqueue
  end

  def wait_again = update!(state: 'checking', pause_asked: false)

  def give_up(reason)
    update!(state: 'unchecked', check_result: nil, check_progress: nil)
    Event.add('image_checked', "Image of #{Words.time(taken_at)} could not be checked: #{reason}", data: { image_id: id })
  end

  # @return [Evrel::Image::Kept] what was learnt about images that are not our own
  def self.kept = Evrel::Image::Kept.new(Config.path('kept'), most: Config.most('kept'))

  # @return [ActiveRecord::Relation] images on its shelf that hold only what differs from it
  def built_on = shelf.images.on_shelf.where("JSON_VALUE(images.manifest, '$.onto.id') = ?", uid)

  # @return [String, nil]
  def gone_because
    return 'the image is gone from its shelf' if gone_at
    return 'the image was given up' if given_up_at
    return 'the image was found damaged' if damaged?

    "the image is no longer whole: #{problem}" if incomplete?
  end

  # @return [String, nil] what is written on it: by somebody here, or when it was taken
  def note = own_note || document.note

  def source_name = shelf.name
  def source_place = "shelf #{shelf_id}"

  # @return [Evrel::Image::Document]
  def document = @document ||= Evrel::Image::Document.new(manifest)

  def whole? = state == 'whole'
  def damaged? = state == 'damaged'
  def incomplete? = state == 'incomplete'
  def due? = whole? && checked_at.present? && checked_at < CHECK_HOLDS.ago

  # @return [Boolean] whether only its head is known
  def provisional? = document.document['provisional'] == true && Image.kept.unpacked(uid).nil?

  # Takes over what a look, or an unpacking, has found out.
  # @param found [Evrel::Image::Document]
  # @param problem [String, nil]
  def learn(found, problem: nil)
    @document = nil
    fresh = uid != found.id
    assign_attributes(manifest: found.document, problem:, uid: found.id, taken_at: found.taken_at, used_bytes: found.used_bytes,
                      size_bytes: found.size, needed_bytes: found.needs, unread_sectors: found.unread_sectors,
                      format: found.document['format'], locked: !found.locked.nil?, gone_at: nil, **traces(found))
    # Another content was never checked.
    assign_attributes(state: 'unchecked', checked_at: nil, check_result: nil, indexed_at: nil) if fresh
    self.state = 'incomplete' if problem
    self.state = 'unchecked' if problem.nil? && incomplete?
    self.words = searchable(found)
    save!
  end

  # By what it is found, after something about its computer has changed.
  def refresh_words = update_columns(words: searchable(document))

  private

  def traces(found)
    host = found.systems.filter_map { |system| system['host'] }.first
    identity = found.computer['system_identity']
    owner = identity ? Computer.find_by(system_identity: identity) : (host && Computer.find_by(name: host))
    # Known by its disk alone (see LookThrough): that holds.
    owner ||= computer if identity.nil? && host.nil?
    owner = computer if computer_said
    { computer: owner, model: found.computer['model'], host:, system_identity: identity, drive_serial: found.drive['serial'],
      disk_guid: found.disk_guid }
  end

  def searchable(found)
    names = found.parts.flat_map { |part| [part['name'], part.dig('volume', 'label')] }
    [computer&.name, found.computer['name'], host, own_note, found.note, path, shelf.name, Words.time(taken_at),
     taken_at.getlocal.strftime('%F %B %Y'), Evrel::Units.bytes(used_bytes), Evrel::Units.bytes(size_bytes),
     Evrel::Image::Format.name(format), *names].compact.uniq.join(' ').downcase
  end
end
