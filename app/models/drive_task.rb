# frozen_string_literal: true

# What is done with a drive in the background. kind: "count" (what would be
# lost), "save" (files first), "image" (an image of it first), "clean" or
# "capacity". state: queued, running, done, failed or stopped.
class DriveTask < ActiveRecord::Base
  KINDS = %w[count save image clean capacity].freeze
  WRITING = %w[clean capacity].freeze

  belongs_to :drive
  belongs_to :docket, optional: true
  belongs_to :shelf, optional: true
  belongs_to :technician

  attribute :params, :json
  attribute :progress, :json
  attribute :result, :json

  scope :open, -> { where(state: %w[queued running]) }

  validates :kind, inclusion: { in: KINDS }

  def open? = %w[queued running].include?(state)

  # Puts it into its queue: what writes to a drive waits behind other writes.
  # @return [DriveTask]
  def self.begin(**fields)
    create!(**fields).tap do |task|
      Delayed::Job.enqueue(DriveTaskJob.new(task.id), queue: WRITING.include?(task.kind) ? Config.bench : Config.drives)
    end
  end
end
