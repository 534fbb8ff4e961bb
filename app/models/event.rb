# frozen_string_literal: true

# What happened: who, when, what. Only ever added; the database refuses
# changes too, and those of a docket are chained by digests: see EventChain.
class Event < ActiveRecord::Base
  belongs_to :docket, optional: true
  belongs_to :technician, optional: true

  attribute :data, :json

  def readonly? = persisted?

  # @param kind [String] for programs
  # @param text [String] for people; never a passphrase
  def self.add(kind, text, docket: nil, technician: nil, data: nil)
    event = new(kind:, text: text.truncate(2000), docket:, technician:, data:, created_at: Time.now.utc.round(6))
    return event.tap(&:save!) unless docket

    transaction do
      # One after the other: two that are added at the same time would follow the same one.
      Docket.lock.find(docket.id)
      event.digest = EventChain.digest(where(docket_id: docket.id).order(:id).last&.digest, event)
      event.save!
    end
    event
  end
end
