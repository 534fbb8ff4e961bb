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

  # Notes whether it could be reached, and since when that is so.
  def note_reachable(now_reachable)
    update!(reachable: now_reachable, reachable_changed_at: Time.now) if reachable != now_reachable || reachable_changed_at.nil?
    update!(seen_at: Time.now) if now_reachable
  end
end
