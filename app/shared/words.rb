# frozen_string_literal: true

# Times, spans and numbers as people say them.
module Words
  MOST = 8 # words of a search

  module_function

  # @param text [String, nil] that somebody searches for
  # @return [Array<String>] for each of its words what LIKE takes, wherever the word stands
  def likes(text) = text.to_s.downcase.split.first(MOST).map { |word| "%#{ActiveRecord::Base.sanitize_sql_like(word)}%" }

  # @return [String] "Mon 2 Mar 18:30" in local time
  def time(time) = time.getlocal.strftime('%a %-d %b %H:%M')

  # @return [String] "1 image", "2 images"
  def count(number, word) = "#{number} #{word}#{'s' unless number == 1}"

  # @param seconds [Numeric]
  def span(seconds) = Evrel::Units.span(seconds)

  def ago(time) = "#{span(Time.now - time)} ago"
end
