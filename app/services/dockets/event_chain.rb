# frozen_string_literal: true

require 'openssl'

# The events of a docket, each with a digest over itself and the one before:
# whoever changes, takes out or puts in one breaks all that follow.
class EventChain
  # count of events, head: digest of the last, broken_at: id of the first that does not fit, or nil
  Checked = Struct.new(:count, :head, :broken_at, keyword_init: true) do
    def whole? = broken_at.nil?
  end

  # @param before [String, nil] digest of the event before
  # @param event [Event]
  # @return [String] SHA-256, in hexadecimal, over the digest before and the event's fields as JSON
  def self.digest(before, event)
    fields = [event.docket_id, event.kind, event.text, event.technician_id, event.data.as_json, event.created_at.utc.iso8601(6)]
    OpenSSL::Digest::SHA256.hexdigest("#{before}\n#{JSON.generate(fields)}")
  end

  # @param docket [Docket]
  def initialize(docket)
    @docket = docket
  end

  # @return [Checked]
  def check
    before = nil
    events = @docket.events.order(:id).to_a
    broken = events.find do |event|
      wrong = event.digest != EventChain.digest(before, event)
      before = event.digest
      wrong
    end
    Checked.new(count: events.size, head: events.last&.digest, broken_at: broken&.id)
  end
end
