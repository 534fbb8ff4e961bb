# frozen_string_literal: true

require 'openssl'

# What happened: who, when, what. Only ever added; the database refuses
# changes too, and those of a docket are chained by digests: see EventChain.
class Event < ActiveRecord::Base
  belongs_to :docket, optional: true
  belongs_to :technician, optional: true

  attribute :data, :json

  def readonly? = persisted?

  # @param before [String, nil] digest of the event before
  # @return [String] HMAC-SHA-256, in hexadecimal, over the digest before and the event's fields as JSON; of one from before
  #   there was a key SHA-256
  def digest_after(before)
    fields = [docket_id, kind, text, technician_id, data.as_json, created_at.utc.iso8601(6)]
    told = "#{before}\n#{JSON.generate(fields)}"
    EventKey.keyed?(id) ? EventKey.digest(told) : OpenSSL::Digest::SHA256.hexdigest(told)
  end

  # @param kind [String] for programs
  # @param text [String] for people; never a passphrase
  def self.add(kind, text, docket: nil, technician: nil, data: nil)
    event = new(kind:, text: text.truncate(2000), docket:, technician:, data:, created_at: Time.now.utc.round(6))
    return event.tap(&:save!) unless docket

    transaction do
      # One after the other: two that are added at the same time would follow the same one.
      Docket.lock.find(docket.id)
      event.digest = event.digest_after(where(docket_id: docket.id).order(:id).last&.digest)
      event.save!
    end
    event
  end
end
