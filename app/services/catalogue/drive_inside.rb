# frozen_string_literal: true

# An attached drive as something to look into, as the pages see it.
module DriveInside
  MOST = 50 # images of the same computer, to be laid beside it

  module_function

  # @param drive [Drive]
  # @return [Hash]
  # @raise [Evrel::Refused] where it is not attached
  def of(drive)
    attached = AttachedDrives.of(drive) or raise Evrel::Refused.new('the drive is not attached', where: 'drive', hint: 'plug it in')
    contents = AttachedDrives.shown(attached)
    { id: drive.id, computer: drive.computer&.name || contents.hosts.first, taken_at: Time.now.iso8601, port: attached.port,
      maker: attached.maker, model: attached.model, size_bytes: attached.capacity, table: contents.table_kind,
      parts: DriveAccess.document(attached, contents, drive).parts, twins: beside(drive) }
  end

  def beside(drive)
    return [] unless drive.computer_id

    Image.where(computer_id: drive.computer_id).there.order(taken_at: :desc).limit(MOST).pluck(:id, :taken_at,
                                                                                               :state).map do |id, taken_at, state|
      { id:, taken_at: taken_at.iso8601, state: }
    end
  end
  private_class_method :beside
end
