# frozen_string_literal: true

# A drive that was seen on the bench at least once, known by its serial.
class Drive < ActiveRecord::Base
  belongs_to :computer, optional: true
  belongs_to :docket, optional: true
  has_many :shelves

  # Takes the drive for a docket, if nobody else has it: one statement, so that
  # two requests at the same moment cannot both succeed.
  # @return [Boolean]
  def lock_for(docket)
    Drive.where(id:).where('docket_id IS NULL OR docket_id = ?', docket.id).update_all(docket_id: docket.id)
    reload.docket_id == docket.id
  end

  def release = update!(docket: nil)
end
