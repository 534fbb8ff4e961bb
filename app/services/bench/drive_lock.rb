# frozen_string_literal: true

# Which docket a drive serves: one at a time. The drive itself is marked too,
# for other hosts that share the bench.
module DriveLock
  module_function

  # Takes a drive for a docket, if nobody else has it: one statement, so that
  # two requests at the same moment cannot both succeed.
  # @param drive [Drive]
  # @param docket [Docket]
  # @return [Boolean]
  def take(drive, docket)
    Drive.where(id: drive.id).where('docket_id IS NULL OR docket_id = ?', docket.id).update_all(docket_id: docket.id)
    taken = drive.reload.docket_id == docket.id
    mark(drive, docket.number) if taken
    taken
  end

  # @param drive [Drive]
  def release(drive)
    drive.update!(docket: nil)
    mark(drive, nil)
  end

  # Once the rows hold it.
  def mark(drive, docket)
    ActiveRecord.after_all_transactions_commit do
      at_hand = AttachedDrives.at_hand(drive.identity_key)
      at_hand&.bench&.lock(at_hand, docket)
    end
  end
  private_class_method :mark
end
