# frozen_string_literal: true

# One writing of an image onto a drive. state: queued, running, done, and those
# from which it can go on: paused, stopped, failed. trouble says why it failed,
# where somebody can decide; decisions what was decided, and by whom.
class Write < ActiveRecord::Base
  include Worked
  include AtBench

  GOES_ON = %w[paused stopped failed].freeze

  belongs_to :docket
  belongs_to :technician
  belongs_to :source, polymorphic: true
  # Of those of images: for joining, and with their shelves.
  belongs_to :image, foreign_key: :source_id, optional: true
  belongs_to :drive

  belongs_to :seal, optional: true # of the layout that it writes

  %i[progress speeds mismatches options summary].each { |name| attribute name, :json }
  attribute :orders, Values.new(Evrel::Restore::Order)
  attribute :outcomes, Values.new(Evrel::Restore::Outcome)
  attribute :decisions, Values.new(WriteDecision)
  attribute :trouble, Values.new(WriteStop, list: false)
  attribute :expected, Values.new(WriteTime, list: false)

  scope :of_images, -> { where(source_type: 'Image') }
  scope :at_work, -> { where(state: 'running') }
  has_many :takings # of its source, on the way

  scope :waiting, -> { where(state: 'queued') }

  def image = (super if source_type == 'Image')
  def job = WriteJob.new(id)
  def queue = bench
  def work_words = "Write of #{docket.computer.name}"
  def wait_again = update!(state: 'queued')

  # It can go on from its journal whenever somebody says so.
  def give_up(reason)
    update!(state: 'failed', error: reason, finished_at: Time.now)
    Event.add('write_failed', reason, docket:)
  end

  def journal_path = Config.path('journals', "write-#{id}.jsonl")

  # @return [String] where the digests of what a drive as the source gave are kept until the write is done
  def digests_path = Config.path('journals', "write-#{id}.digests")

  # @return [String] the folder in which parts are brought to another size
  def scratch_path = Config.path('scratch', "write-#{id}")
  def clear_scratch = Evrel::Disk::Layer.clear(scratch_path)
  def can_go_on? = GOES_ON.include?(state)
  def begun? = Evrel::Restore::Journal.begun?(journal_path)

  # @return [Float, nil] seconds that it took
  def seconds = started_at && finished_at && (finished_at - started_at)
end
