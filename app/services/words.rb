# frozen_string_literal: true

# Times and spans as people say them.
module Words
  module_function

  # @return [String] "Mon 2 Mar 18:30" in local time
  def time(time) = time.getlocal.strftime('%a %-d %b %H:%M')

  # @param seconds [Numeric]
  # @return [String] "40 s", "12 min", "5 h", "3 days"
  def span(seconds)
    seconds = seconds.abs.to_f
    return "#{seconds.round} s" if seconds < 90
    return "#{(seconds / 60).round} min" if seconds < 90 * 60
    return "#{(seconds / 3600).round} h" if seconds < 36 * 3600

    "#{(seconds / 86_400).round} days"
  end

  def ago(time) = "#{span(Time.now - time)} ago"
end
