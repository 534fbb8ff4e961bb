# frozen_string_literal: true

# A drive that was seen on the bench at least once, known by its identity: its
# serial, or what else it tells (Evrel::Identity.key).
class Drive < ActiveRecord::Base
  belongs_to :computer, optional: true
  belongs_to :docket, optional: true
  belongs_to :protected_by, class_name: 'Technician', optional: true
  has_many :shelves
  has_many :drive_sightings
  has_many :drive_tasks
  has_many :takings
  has_many :trial_starts

  # @return [Boolean] whether it is protected today
  def protected? = !protected_by_id.nil? && (protected_until.nil? || protected_until >= Date.current)

  # @return [Hash, nil] as Evrel::Safety wants it
  def protection
    return unless protected?

    { 'by' => protected_by.short_name, 'note' => protected_note, 'until' => protected_until&.end_of_day }
  end

  # Notes that it is in a port now; a new line where it was elsewhere or away.
  # @param attached [Evrel::Bench::Drive]
  def sighted(attached, now = Time.now)
    bench, port = attached.slot
    last = drive_sightings.order(:id).last
    if last && [last.bench, last.port] == [bench, port] && last.seen_until > now - 10.minutes
      last.update!(seen_until: now)
    else
      drive_sightings.create!(bench:, port:, seen_from: now, seen_until: now)
    end
  end
end
