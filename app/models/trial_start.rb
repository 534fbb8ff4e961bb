# frozen_string_literal: true

# A start in the emulator: of an image, of a written disk, or of a drive as it
# is. state: queued, running, done.
class TrialStart < ActiveRecord::Base
  include Worked
  include AtBench

  # Outcomes (see Evrel::Startup::Trial::Result) that say of the system that it does not start. One that was slow, waits
  # for a passphrase, or was stopped says neither.
  NOT_STARTED = %w[stuck loop rescue ended].freeze

  belongs_to :docket, optional: true
  belongs_to :image, optional: true
  belongs_to :drive, optional: true
  belongs_to :write, optional: true
  belongs_to :layout_try, optional: true
  belongs_to :technician

  has_many :inputs, class_name: 'TrialInput'

  attribute :lines, :json
  attribute :milestones, :json
  attribute :wish, :json

  scope :at_work, -> { where(state: 'running') }
  scope :waiting, -> { where(state: 'queued') }

  def job = TrialJob.new(id)
  def queue = bench
  def priority = 10
  def work_words = kind == 'computer' ? 'Turning the computer on' : 'Trial start'
  def wait_again = update!(state: 'queued')

  def give_up(reason)
    update!(state: 'done', outcome: 'failed', message: reason)
    Event.add('trial_done', reason, docket:)
  end

  def picture_path = picture && Config.path('pictures', picture)
  def picture_to_be = Config.path('pictures', "trial-#{id}.png")
  def reached? = outcome == 'reached'
  def not_started? = NOT_STARTED.include?(outcome)
end
