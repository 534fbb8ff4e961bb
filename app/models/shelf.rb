# frozen_string_literal: true

# A place that holds images: a folder, the file system of a drive, or a folder
# of a web server. What lies on it is remembered while it is away.
class Shelf < ActiveRecord::Base
  include Worked

  KINDS = %w[folder drive web].freeze

  belongs_to :drive, optional: true
  has_many :images
  has_many :shelf_files, dependent: :delete_all

  validates :name, presence: { message: 'is missing' }, length: { maximum: 60 }, uniqueness: { message: 'is taken by another shelf' }
  validates :kind, inclusion: { in: KINDS, message: 'is none of folder, drive and web' }
  validates :path, presence: { message: 'is missing' }

  scope :at_work, -> { where(look_state: 'running') }
  scope :waiting, -> { where(look_state: 'queued') }

  def job = LookJob.new(id)
  def queue = Config.reading
  def work_words = "Looking through shelf #{name}"
  def wait_again = update!(look_state: 'queued', look_stop: false)

  def give_up(reason)
    update!(look_state: 'failed', look_stop: false, look_error: reason)
    Event.add('shelf_looked', "Shelf #{name} could not be looked through: #{reason}")
  end

  # @return [Evrel::Shelf::Folder, Evrel::Shelf::Web] the core's view of it
  # @raise [Evrel::Unreadable] where it cannot be reached now
  def opened
    return Evrel::Shelf::Web.new(path, user:, password: Secrets.of(self)) if kind == 'web'
    return Evrel::Shelf::Folder.new(path) if kind == 'folder' && there?

    attached = drive&.attached if there? # which is a second old, perhaps
    raise Evrel::Unreadable.new("shelf #{name} is not attached", where: name, hint: 'plug its drive in') unless attached

    attached.mount(path)
  end

  # Whether it is there at this moment, give or take a second: a list asks for
  # every row. A web server is not asked at all: the last look, or the last
  # thing read from it, tells.
  def there?
    return reachable if kind == 'web'

    now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    return @there if @asked_at && now - @asked_at < 1

    @asked_at = now
    @there = (kind == 'folder' || drive_there?) && File.directory?(path)
  end

  # @return [String] where it is, for whoever has to fetch it
  def whereabouts
    return "On shelf #{name}" if there?
    return "Shelf #{name} does not answer since #{Words.time(reachable_changed_at || updated_at)}" unless drive

    "On drive …#{drive.identity_key[-4..]}, last seen #{Words.time(drive.last_seen_at)} on port #{drive.last_port}"
  end

  # Notes whether it could be reached, and since when that is so.
  def note_reachable(now_reachable)
    update!(reachable: now_reachable, reachable_changed_at: Time.now) if reachable != now_reachable || reachable_changed_at.nil?
    update!(seen_at: Time.now) if now_reachable
  end

  private

  # By the drive's serial and the volume's UUID, whatever its port is today.
  def drive_there?
    attached = drive.attached or return false
    return true if volume_uuid.nil?

    AttachedDrives.shown(attached).parts.any? { |part| part.dig('volume', 'uuid') == volume_uuid }
  end
end
