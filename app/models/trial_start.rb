# frozen_string_literal: true

# A start in the emulator: of an image, or of a written disk. state: queued,
# running, done.
class TrialStart < ActiveRecord::Base
  belongs_to :docket, optional: true
  belongs_to :image, optional: true
  belongs_to :write, optional: true
  belongs_to :layout_try, optional: true
  belongs_to :technician

  has_many :inputs, class_name: 'TrialInput'

  attribute :lines, :json
  attribute :milestones, :json
  attribute :wish, :json

  def picture_path = picture && Config.path('pictures', picture)
  def reached? = outcome == 'reached'
end
