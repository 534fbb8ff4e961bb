# frozen_string_literal: true

# A mend of a written disk, or of the computer's firmware. What stood on the
# disk is kept beside the journals until it is taken back.
class Mend < ActiveRecord::Base
  include AtBench

  belongs_to :docket
  belongs_to :write
  belongs_to :technician
  belongs_to :undone_by, class_name: 'Technician', optional: true

  attribute :places, :json

  def record_path = Config.path('journals', "mend-#{id}.jsonl")
  def undone? = !undone_at.nil?

  # @return [Boolean] whether what it changed lies on the disk
  def on_disk? = places.to_a.any?

  def view
    { id:, kind:, title:, before:, after:, bytes: places.to_a.sum(&:last), on_disk: on_disk?, by: technician.short_name,
      at: created_at.iso8601, undone_at: undone_at&.iso8601, undone_by: undone_by&.short_name }
  end
end
