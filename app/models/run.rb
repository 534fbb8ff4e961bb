# frozen_string_literal: true

# One image onto many drives, each for a computer of its own with a docket of
# its own. What is decided once for all of them is decided here.
#
# way is what happens where a drive has more room than the image needs: stays
# (as in the image), or fits (the sensible layout for each drive). seed chooses
# those of which it is proved that they start; sample holds the ids of their dockets.
# named: whether each system gets the name of its computer; names are lines of a table
# with what else is set, templates the files in which that is. watch is what it takes by itself (see RunWatch).
class Run < ActiveRecord::Base
  WAYS = { 'fits' => 'Fitted to each drive', 'stays' => 'As in the image' }.freeze
  MOST = 60 # dockets

  belongs_to :image
  belongs_to :technician
  has_many :dockets, -> { order(:run_place) }

  %i[sample templates names watch].each { |name| attribute name, :json }

  validates :way, inclusion: { in: WAYS.keys, message: 'is none of the known ones' }

  def number = format('R-%04d', id)

  # @param docket [Docket] of it
  # @return [Hash{String=>String}] what is set in its system
  def values_of(docket) = { **line_of(docket.computer.name), 'name' => docket.computer.name }

  # @return [Hash{String=>String}] what the table says of a computer, empty where it has no line
  def line_of(name) = names.to_a.find { |line| line['name'].to_s.casecmp?(name) } || {}

  # @return [Docket, nil] the first that has no drive yet
  def next_docket = dockets.includes(:seals).find { |docket| docket.closed_at.nil? && !docket.sealed?('target') }
end
