# frozen_string_literal: true

# The events of a docket, each with a digest over itself and the one before,
# keyed with what does not lie in the database (EventKey): whoever changes, takes
# out or puts in one breaks all that follow.
class EventChain
  # count of events, head: digest of the last, broken_at: id of the first that does not fit, or nil
  Checked = Struct.new(:count, :head, :broken_at, keyword_init: true) do
    def whole? = broken_at.nil?
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
      wrong = event.digest != event.digest_after(before)
      before = event.digest
      wrong
    end
    Checked.new(count: events.size, head: events.last&.digest, broken_at: broken&.id)
  end
end
