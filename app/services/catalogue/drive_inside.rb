# frozen_string_literal: true

# An attached drive as something to look into, as the pages see it.
module DriveInside
  module_function

  # @param drive [Drive]
  # @return [Hash]
  # @raise [Evrel::Refused] where it is not attached
  def of(drive)
    attached = AttachedDrives.of!(drive)
    contents = AttachedDrives.shown(attached)
    same = drive.computer_id ? Image.where(computer_id: drive.computer_id) : Image.none
    { id: drive.id, computer: drive.computer&.name || contents.hosts.first, taken_at: Time.now.iso8601, port: attached.port,
      maker: attached.maker, model: attached.model, size_bytes: attached.capacity, table: contents.table_kind,
      parts: DriveAccess.document(attached, contents, drive).parts, twins: ImageView.beside(same) }
  end
end
