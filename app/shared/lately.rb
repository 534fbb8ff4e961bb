# frozen_string_literal: true

# How long ago something happened goes by the clock of this machine, which may
# be set. What lies ahead of it did not happen lately: a proof does not hold
# again, and nobody is locked out until the clock has caught up.
module Lately
  AHEAD = 5 # seconds by which hosts that share a database may differ

  module_function

  # @param seconds [Numeric, ActiveSupport::Duration]
  # @return [Range<Time>]
  def within(seconds) = (Time.now.utc - seconds)..(Time.now.utc + AHEAD)

  # @param time [Time]
  def at?(time, seconds) = within(seconds).cover?(time)
end
