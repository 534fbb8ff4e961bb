# frozen_string_literal: true

# One item of a docket's checklist: done or not, by whom, with a note and a photo.
class Tick < ActiveRecord::Base
  include AtBench

  belongs_to :docket
  belongs_to :technician

  def photo_path = photo && Config.path('pictures', photo)
end
