# frozen_string_literal: true

# One open page of a docket: it says every few seconds that it is there, at which
# station, and what is chosen on it that is not sealed yet.
class Presence < ActiveRecord::Base
  GONE_AFTER = 25 # seconds without a word of it

  belongs_to :docket
  belongs_to :technician

  scope :now, -> { where(seen_at: Lately.within(GONE_AFTER)) }

  class << self
    # @param page [String] of the browser's own making
    # @return [Array<Presence>] the pages of others that show the same docket
    def note(docket, technician, page:, station:, choice: nil)
      now = Time.now.utc
      upsert({ docket_id: docket.id, technician_id: technician.id, page:, station:, choice:, seen_at: now })
      where(seen_at: ..(now - (4 * GONE_AFTER))).delete_all
      self.now.where(docket:).where.not(technician:).includes(:technician).order(:technician_id, :id)
    end

    # @return [Array] of each docket that somebody has open: its id, and what changes when somebody comes, goes or chooses
    def marks = now.order(:docket_id, :id).pluck(:docket_id, :page, :station, :choice).group_by(&:first)
  end

  def view = { technician: technician.short_name, station:, choice: }
end
