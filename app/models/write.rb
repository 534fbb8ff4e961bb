# frozen_string_literal: true

# One writing of an image onto a drive. state: queued, running, done, failed
# (can go on), stopped (can go on).
class Write < ActiveRecord::Base
  belongs_to :docket
  belongs_to :technician
  belongs_to :image
  belongs_to :drive

  attribute :orders, :json
  attribute :outcomes, :json
  attribute :progress, :json
  attribute :speeds, :json
  attribute :expected, :json
  attribute :mismatches, :json

  def journal_path = Config.path('journals', "write-#{id}.jsonl")
  # @return [String] the folder in which parts are brought to another size
  def scratch_path = Config.path('scratch', "write-#{id}")
  def clear_scratch = FileUtils.rm_rf(scratch_path)
  def can_go_on? = %w[failed stopped].include?(state)

  # @return [Float, nil] seconds that it took
  def seconds = started_at && finished_at && (finished_at - started_at)
end
