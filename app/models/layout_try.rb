# frozen_string_literal: true

# A dry run of a layout on a throw-away file. state: queued, running, done,
# failed or stopped.
class LayoutTry < ActiveRecord::Base
  include Worked
  include AtBench

  belongs_to :docket
  belongs_to :technician
  has_many :trial_starts

  attribute :wish, :json
  attribute :progress, :json
  attribute :facts, :json

  scope :at_work, -> { where(state: 'running') }
  scope :waiting, -> { where(state: 'queued') }

  def job = LayoutTryJob.new(id)
  def queue = Config.reading(bench)
  def work_words = 'Dry run of the layout'
  def wait_again = update!(state: 'queued')

  def give_up(reason)
    discard_files
    update!(state: 'failed', error: reason)
    Event.add('layout_try_failed', "Dry run failed: #{reason}", docket:)
  end

  # @return [String] the throw-away disk
  def path = Config.path('tries', "try-#{id}.raw")
  def scratch = Config.path('tries', "try-#{id}.scratch")
  def open? = %w[queued running].include?(state)

  # The result stays; the disk goes.
  def discard
    update!(stop_asked: true) if open?
    ActiveRecord.after_all_transactions_commit { discard_files }
  end

  def discard_files
    Evrel::Disk::Layer.clear(scratch)
    FileUtils.rm_f(path)
  end

  # @return [Boolean] whether its disk is there, for a trial start
  def startable? = state == 'done' && File.exist?(path)
end
