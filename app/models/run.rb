# frozen_string_literal: true

# One image onto many drives, each for a computer of its own with a docket of
# its own. What is decided once for all of them is decided here.
#
# way is what happens where a drive has more room than the image needs: stays
# (as in the image), or fits (the sensible layout for each drive). seed chooses
# those of which it is proved that they start; sample holds the ids of their dockets.
class Run < ActiveRecord::Base
  WAYS = { 'fits' => 'Fitted to each drive', 'stays' => 'As in the image' }.freeze
  MOST = 60 # dockets

  belongs_to :image
  belongs_to :technician
  has_many :dockets, -> { order(:run_place) }

  attribute :sample, :json

  validates :way, inclusion: { in: WAYS.keys, message: 'is none of the known ones' }

  def number = format('R-%04d', id)

  # @return [Docket, nil] the first that has no drive yet
  def next_docket = dockets.includes(:seals).find { |docket| docket.closed_at.nil? && !docket.sealed?('target') }
end
