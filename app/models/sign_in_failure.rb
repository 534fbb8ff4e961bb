# frozen_string_literal: true

require 'openssl'

# Somebody tried to sign in and could not. The name may be a password that was
# typed into the wrong field: only its digest is kept.
class SignInFailure < ActiveRecord::Base
  PERIOD = 60 # seconds
  OF_ACCOUNT = 5
  OF_PEER = 20

  # @return [Boolean] whether there were too many of late, of that name or from there
  def self.too_many?(name, peer)
    recent = where(created_at: Lately.within(PERIOD))
    recent.where(account: digest_of(name)).count >= OF_ACCOUNT || recent.where(peer:).count >= OF_PEER
  end

  def self.note(name, peer)
    where(created_at: ..1.day.ago).delete_all
    create!(account: digest_of(name), peer:, created_at: Time.now.utc)
  end

  def self.digest_of(name) = OpenSSL::Digest::SHA256.hexdigest(name.strip.downcase)
end
