# frozen_string_literal: true

# What was seen of a proof by unplugging (see UnplugProof). Without a docket it
# is for work on the drive itself.
# state: waiting, away, passed or void.
class UnplugCheck < ActiveRecord::Base
  include AtBench

  TIME = 90    # seconds in which it must be back
  HOLDS = 300  # seconds for which a passed check is good for a seal

  belongs_to :docket, optional: true
  belongs_to :drive
  belongs_to :technician

  scope :under_way, -> { where(state: %w[waiting away]) }

  # @return [UnplugCheck, nil] the last one
  def self.latest(docket) = where(docket:).order(:id).last

  # @return [Hash, nil] as the pages see it, while it means something
  def view
    return unless running? || Lately.at?(updated_at, HOLDS)

    { id:, drive_id:, port:, state:, reason:, ends_at: ends_at.iso8601, good: good? }
  end

  def running? = %w[waiting away].include?(state)
  def good? = state == 'passed' && Lately.at?(updated_at, HOLDS)

  def void(reason) = update!(state: 'void', reason:)
end
