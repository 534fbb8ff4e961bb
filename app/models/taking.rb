# frozen_string_literal: true

# The taking of an image of a drive. state: queued, running, done, stopped, and
# those from which it goes on: paused, failed. away says that it failed because
# the "drive" or the "shelf" had gone: it goes on by itself when both are back.
# parts: numbers of those that the image is to hold, nil for the whole drive;
# on_drive: the parts that were on it when that was asked for;
# image_uid: the identity that the image will have; locked: whether a passphrase
# opens it; salvage: whether the drive is read in passes, since it fails, a sector that
# failed is asked for again so often as retries says, and all of it ends after so
# many minutes;
# temporary: whether page, swap and hibernation files are kept; checked: whether
# the image is read back from its shelf afterwards.
class Taking < ActiveRecord::Base
  include Worked
  include AtBench

  GOES_ON = %w[paused failed].freeze

  belongs_to :drive
  belongs_to :technician
  belongs_to :docket, optional: true
  belongs_to :shelf, optional: true
  belongs_to :write, optional: true # that reads the drive at the same time
  belongs_to :image, optional: true
  belongs_to :onto, class_name: 'Image', optional: true # only what differs from it is stored
  belongs_to :fills, class_name: 'Image', optional: true # of a salvage: only what it lacks is read

  %i[parts on_drive progress speeds summary].each { |name| attribute name, :json }
  attribute :expected, Values.new(TakingForecast, list: false)

  scope :open, -> { where(state: %w[queued running]) }
  scope :at_work, -> { where(state: 'running') }
  scope :waiting, -> { where(state: 'queued') }
  # Those whose files may lie unfinished on their shelf.
  scope :unfinished, -> { where(state: %w[queued running paused failed]) }

  validates :level, inclusion: { in: Evrel::Image::CaptureOptions::LEVELS.keys }
  validates :retries, inclusion: { in: 0..20 }
  validates :minutes, inclusion: { in: 1..60_000 }, allow_nil: true

  def job = TakingJob.new(id)
  def queue = Config.takings(bench)
  def work_words = "Taking an image of the drive in port #{port}"
  def wait_again = update!(state: 'queued')
  def open? = %w[queued running].include?(state)
  def can_go_on? = GOES_ON.include?(state)

  # @return [String] full path of the image, as it will be
  def path = File.join(shelf.path, folder)

  # @return [String] full path of its files until it is complete
  def unfinished_path = "#{path}.part-#{id}"

  # @return [String] full path of what is salvaged until the image is made of it
  def salvage_path = "#{path}.salvage-#{id}"

  # It can go on from its files whenever somebody says so.
  def give_up(reason)
    update!(state: 'failed', error: reason, finished_at: Time.now)
    Event.add('taking_failed', "#{work_words}: #{reason}", docket:, technician:, data: { taking: id })
  end
end
