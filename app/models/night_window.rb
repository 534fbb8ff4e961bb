# frozen_string_literal: true

# The hours, in local time, in which this bench proves by itself what is not
# proved. Without a row it does not.
class NightWindow < ActiveRecord::Base
  CLOCK = /\A(?:[01]\d|2[0-3]):[0-5]\d\z/

  belongs_to :technician

  validates :begins, :ends, format: { with: CLOCK, message: 'is a time as 22:00' }
  validate { errors.add(:ends, 'is when it begins') if begins == ends }

  # @return [NightWindow, nil] of this bench
  def self.here = find_by(bench: Config.bench)

  # @param begins [String, nil] nil turns it off
  # @param ends [String]
  # @param technician [Technician]
  def self.choose(begins, ends, technician)
    window = here
    transaction do
      begins ? (window || new(bench: Config.bench)).update!(begins:, ends:, technician:) : window&.destroy!
      Event.add('night_window', begins ? "What is not proved is proved between #{begins} and #{ends}" : 'Nothing is proved at night',
                technician:)
    end
  end

  # @param now [Time]
  # @return [Time, nil] when the window that is open now has begun
  def open_since(now)
    since = last_begun(now)
    since if now < since + length
  end

  # @param now [Time]
  # @return [Time] when it has begun the last time, open or over
  def last_begun(now)
    today = at(now.getlocal)
    today > now ? at(now.getlocal - 86_400) : today
  end

  private

  def at(day) = Time.local(day.year, day.month, day.day, *begins.split(':').map(&:to_i))
  def minutes(clock) = clock.split(':').map(&:to_i).then { |hours, minutes| (hours * 60) + minutes }
  def length = ((minutes(ends) - minutes(begins)) % 1440) * 60
end
