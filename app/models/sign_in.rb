# frozen_string_literal: true

require 'openssl'
require 'securerandom'

# Somebody signed in at one browser, until either time is over or somebody ends
# it. The browser holds a secret; here lies its digest only.
class SignIn < ActiveRecord::Base
  IDLE = 30.minutes
  LONGEST = 12.hours
  # Work is noted no more often than that.
  NOTED = 20.seconds

  belongs_to :technician

  # @param peer [String] address of the other end of the line
  # @param agent [String] as the browser calls itself
  # @return [(SignIn, String)] and the secret
  def self.begin(technician, peer:, agent:)
    over.delete_all
    secret = SecureRandom.hex(32)
    now = Time.now.utc
    [create!(technician:, digest: digest_of(secret), peer:, agent: agent.to_s.scrub.first(200), created_at: now, active_at: now), secret]
  end

  # @param secret [String]
  # @return [SignIn, nil] where it is still good
  def self.of(secret)
    includes(:technician).find_by(digest: digest_of(secret))&.then { |found| found if found.good? }
  end

  def self.digest_of(secret) = OpenSSL::Digest::SHA256.hexdigest(secret)

  # Those that no work keeps open any more.
  def self.over
    at_trials = TrialStart.where(state: %w[queued running]).where.not(technician_id: nil).select(:technician_id)
    where.not(created_at: Lately.within(LONGEST)).or(where.not(active_at: Lately.within(IDLE)).where.not(technician_id: at_trials))
  end

  # @param ids [Array<Integer>]
  # @return [Array<Integer>] those that are still good
  def self.good(ids) = where(id: ids).includes(:technician).select(&:good?).map(&:id)

  # A trial start of one's own that runs keeps it open: somebody watches that.
  def good?
    return false if technician.disabled_at || !Lately.at?(created_at, LONGEST)

    Lately.at?(active_at, IDLE) || TrialStart.exists?(technician_id:, state: %w[queued running])
  end

  def active! = active_at < NOTED.ago && update_columns(active_at: Time.now.utc)
end
