# frozen_string_literal: true

# Times and spans as people say them.
module Words
  module_function

  # @return [String] "Mon 2 Mar 18:30" in local time
  def time(time) = time.getlocal.strftime('%a %-d %b %H:%M')

  # @param seconds [Numeric]
  def span(seconds) = Evrel::Units.span(seconds)

  def ago(time) = "#{span(Time.now - time)} ago"
end
