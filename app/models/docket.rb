# frozen_string_literal: true

# The sheet of one computer to restore, with its six stations.
class Docket < ActiveRecord::Base
  CAUSES = { 'drive_failed' => 'Drive failed', 'corrupt' => 'System corrupt', 'infected' => 'Infected',
             'slow' => 'Slow', 'replaced' => 'Computer replaced', 'rehearsal' => 'Rehearsal',
             'set_up' => 'Set up' }.freeze
  STATIONS = %w[computer image target layout write start].freeze

  belongs_to :computer
  belongs_to :opened_by, class_name: 'Technician'
  belongs_to :waits_for_technician, class_name: 'Technician', foreign_key: 'waits_for_id', optional: true
  belongs_to :copied_from, class_name: 'Docket', optional: true
  belongs_to :run, optional: true # run_place is its place in the row
  has_many :seals
  has_many :writes
  has_many :trial_starts
  has_many :start_checks
  has_many :events
  has_many :takings
  has_many :drive_tasks
  has_many :layout_tries
  has_many :mends

  attribute :layout_draft, :json
  attribute :write_options, :json

  # Open ones that are sealed on one of these images.
  scope :open_on, lambda { |images|
    where(closed_at: nil).where(id: Seal.where(broken_at: nil, source_key: Array(images).map { |id| "image #{id}" }).select(:docket_id))
  }

  after_create { refresh_words }
  before_update { self.words = search_words if cause_changed? || note_changed? }

  validates :cause, inclusion: { in: CAUSES.keys, message: 'is none of the known ones' }

  def number = format('D-%04d', id)

  # By what it is found, after something about its computer has changed.
  def refresh_words = update_columns(words: search_words)

  def cause_name = CAUSES.fetch(cause)

  # @return [Seal, nil] the unbroken one
  def seal(station) = seals.select { |seal| seal.station == station && seal.broken_at.nil? }.max_by(&:id)

  def sealed?(station) = !seal(station).nil?

  # @return [Array<(String, Seal, Integer)>] sealed stations, their seals, and how many seconds each took
  def station_times
    before = created_at
    STATIONS.filter_map do |name|
      seal = seal(name) or next
      seconds = [(seal.created_at - before).round, 0].max
      before = seal.created_at
      [name, seal, seconds]
    end
  end

  # @return [String] the first station without a seal; the last where all have one
  def current_station = STATIONS.find { |station| !sealed?(station) } || STATIONS.last

  # @return [String, nil] the station that must be sealed before this one can be
  def waits_for(station) = STATIONS.take_while { |name| name != station }.find { |name| !sealed?(name) }

  # @return [Restorable, nil] what it restores, as it is sealed
  def source = Restorable.find(seal('image')&.decision&.fetch('source'))

  # @return [Drive, nil] the sealed one
  def target = sealed?('target') ? Drive.find_by(id: seal('target').decision['drive_id']) : nil

  # @return [Write, nil] the latest that belongs to the layout that is sealed now
  def write
    layout = seal('layout') or return
    return writes.select { |write| write.seal_id == layout.id }.max_by(&:id) if writes.loaded?

    writes.where(seal: layout).order(:id).last
  end

  # @param image [Evrel::Image::Native, Evrel::Image::Foreign] the sealed source, opened
  # @return [Boolean] whether it was decided that zeros may stand where the image could not be read
  def accepts_unread?(image) = seal('image').decision['unread'] == image.manifest.unread_sectors

  def writing? = %w[queued running].include?(write&.state)

  # Nobody else changes this docket until the transaction around it ends; what was known of it is read again.
  def one_at_a_time
    self.class.lock.find(id)
    seals.reset
    writes.reset
  end

  # Not by serials: what is proved from a label is not looked up.
  def search_words
    sealed_by = Technician.where(id: Seal.where(docket_id: id, broken_at: nil).select(:technician_id)).order(:id).pluck(:name)
    [number, computer.name, computer.place, cause_name, note, *sealed_by].compact.join(' ').downcase.truncate(4000)
  end
end
