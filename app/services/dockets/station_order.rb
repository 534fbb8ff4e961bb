# frozen_string_literal: true

# When a station may be sealed, or worked at: not before those in front of it,
# and not while a write runs.
module StationOrder
  module_function

  # @param docket [Docket]
  # @param name [String] of the station
  # @raise [Evrel::Refused] where an earlier station is open
  def earlier!(docket, name)
    waits_for = docket.waits_for(name)
    raise Evrel::Refused.new("#{waits_for.capitalize} is not sealed yet", where: name) if waits_for
  end

  # @raise [Evrel::Refused] where an earlier station is open, or a write runs
  def check!(docket, name)
    earlier!(docket, name)
    return unless docket.writing?

    write = docket.write
    who = "#{write.technician.short_name} began it at #{write.created_at.getlocal.strftime('%H:%M')}"
    raise Evrel::Refused.new("a write is running: #{who}", where: name)
  end
end
