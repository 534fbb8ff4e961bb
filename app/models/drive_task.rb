# frozen_string_literal: true

# What is done with a drive in the background. kind: "count" (what would be
# lost), "save" (files first), "measure" (what an image would take), "clean" or
# "capacity". state: queued, running, done, failed or stopped.
class DriveTask < ActiveRecord::Base
  include Worked
  include AtBench

  WORDS = { 'count' => 'Counting what would be lost', 'save' => 'Saving files', 'measure' => 'Measuring for an image',
            'clean' => 'Cleaning', 'capacity' => 'Testing the capacity' }.freeze
  KINDS = WORDS.keys.freeze
  WRITING = %w[clean capacity].freeze

  belongs_to :drive
  belongs_to :docket, optional: true
  belongs_to :shelf, optional: true
  belongs_to :technician

  attribute :params, :json
  attribute :progress, :json
  attribute :result, :json

  scope :open, -> { where(state: %w[queued running]) }
  scope :at_work, -> { where(state: 'running') }
  scope :waiting, -> { where(state: 'queued') }

  validates :kind, inclusion: { in: KINDS }

  def port = params['port']
  def job = DriveTaskJob.new(id)
  def queue = WRITING.include?(kind) ? bench : Config.drives(bench)
  def work_words = "#{WORDS.fetch(kind)} of the drive in port #{port}"
  # What an earlier run has left behind under its name is its own.
  def wait_again = update!(state: 'queued', progress: nil, params: (params || {}).merge('again' => true))

  # @return [String, nil] why it is not simply done once more
  def unsafe = ('it was cut off in the middle: in the free room of the drive may lie what it wrote there' if kind == 'capacity')

  def give_up(reason)
    update!(state: 'failed', error: reason, progress: nil, finished_at: Time.now)
    Event.add("task_#{kind}", "#{work_words}: failed, #{reason}", docket:, technician:, data: { task: id })
  end

  def open? = %w[queued running].include?(state)

  # One at a time: a drive's work waits for the end of the work before.
  # @param drive [Drive] whose row the caller has taken
  # @param kinds [Array<String>] that are in the way
  # @param takings [Boolean] whether an image that is being taken of it is in the way too
  # @raise [Evrel::Refused]
  def self.idle!(drive, kinds: KINDS, takings: false)
    one = open.where(drive:, kind: kinds).includes(:technician).first || (takings && Taking.open.find_by(drive:)) or return
    raise Evrel::Refused.new("#{one.work_words} is going on: #{one.technician.short_name} began it",
                             where: "port #{one.port}", hint: 'wait for its end, or stop it')
  end

  # Puts it into its queue: what writes to a drive waits behind other writes.
  # @return [DriveTask]
  def self.begin(**fields)
    create!(**fields).tap(&:enqueue)
  end
end
