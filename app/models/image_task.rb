# frozen_string_literal: true

# What is done to an image in the background to keep it. kind: "copy" or "move"
# (to another shelf), "merge" (one that holds only what differs is made whole), or
# "index" (the names of the files in a locked one go into the search). state:
# queued, running, done, failed or stopped; one that failed can go on. made: the
# image that came of a copy.
class ImageTask < ActiveRecord::Base
  include Worked

  WORDS = { 'copy' => 'Copying', 'move' => 'Moving', 'merge' => 'Making whole',
            'index' => 'Taking the names of the files in' }.freeze
  KINDS = WORDS.keys.freeze

  belongs_to :image
  belongs_to :technician
  belongs_to :shelf, optional: true # the one that it goes to
  belongs_to :made, class_name: 'Image', optional: true

  attribute :progress, :json

  scope :open, -> { where(state: %w[queued running]) }
  scope :at_work, -> { where(state: 'running') }
  scope :waiting, -> { where(state: 'queued') }

  validates :kind, inclusion: { in: KINDS }

  def job = ImageTaskJob.new(id)
  def queue = Config.takings
  def work_words = "#{WORDS.fetch(kind)} the image of #{Words.time(image.taken_at)}#{" to #{shelf.name}" if shelf}"
  def wait_again = update!(state: 'queued')
  def open? = %w[queued running].include?(state)

  def give_up(reason)
    update!(state: 'failed', error: reason, finished_at: Time.now)
    Event.add("image_#{kind}", "#{work_words}: failed, #{reason}", technician:, data: { image_id: })
  end
end
