# frozen_string_literal: true

# The way to what is on a drive that a docket restores from, as it is.
class DriveAccess
  # @param attached [Evrel::Bench::Drive]
  # @return [Evrel::Image::Live]
  def self.live(attached, taken_at: Time.now)
    drive = { 'maker' => attached.maker, 'model' => attached.model, 'serial' => attached.serial.presence,
              'capacity_bytes' => attached.capacity, 'bus' => attached.bus }.compact
    Evrel::Image::Live.new(attached.open, uid: uid(attached), taken_at:,
                                          about: { 'computer' => {}, 'drive' => drive })
  end

  # To look at what is on it: what it is made of is known from what was read of it before.
  # @param drive [Drive]
  # @yieldparam opened [Evrel::Image::Live] closed afterwards
  # @raise [Evrel::Refused] where it is not attached
  def self.look(drive)
    attached = AttachedDrives.of!(drive)
    known = document(attached, AttachedDrives.contents(attached), drive)
    opened = Evrel::Image::Live.new(attached.open, uid: attached.key, taken_at: Time.now, document: known)
    yield opened
  ensure
    opened&.close
  end

  # What is known of it without reading the maps of its volumes.
  # @param attached [Evrel::Bench::Drive]
  # @param contents [Evrel::Survey]
  # @param record [Drive]
  # @return [Evrel::Image::Document]
  def self.document(attached, contents, record)
    Evrel::Image::Document.new(
      'format' => Evrel::Image::Live::FORMAT, 'id' => attached.key, 'taken_at' => (contents.written_at || Time.now).iso8601,
      'computer' => { 'name' => record.computer&.name, 'system_identity' => record.computer&.system_identity }.compact,
      'drive' => { 'serial' => attached.serial.presence }.compact, 'systems' => contents.systems, **laid_out(contents),
      'used_bytes' => contents.volumes.sum { |volume| volume['used_bytes'].to_i },
      'disk' => { 'size_bytes' => attached.capacity, 'logical_sector' => attached.logical_sector, 'clusters' => 0 }
    )
  end

  def self.laid_out(contents)
    return { 'table' => nil, 'volume' => contents.parts.first&.fetch('volume', nil) }.compact unless contents.table_kind

    { 'table' => { 'kind' => contents.table_kind, 'guid' => contents.disk_guid, 'partitions' => contents.parts } }
  end
  private_class_method :laid_out

  # @param attached [Evrel::Bench::Drive]
  # @return [String] identity of it with what is on it now
  def self.uid(attached) = Evrel::Image::Live.uid(attached.key, AttachedDrives.contents(attached).fingerprint)

  # @param source [DriveSource]
  def initialize(source)
    @source = source
  end

  # @return [DriveAccess] itself, when `open` needs no record any more
  # @raise [Evrel::Away] where it is not attached
  # @raise [Evrel::Refused] where it is not as it was sealed
  def ready
    attached = AttachedDrives.of(@source.drive) or
      raise Evrel::Away.new("#{@source.source_name} is not attached", where: 'source', hint: 'plug it in again')
    unless DriveAccess.uid(attached) == @source.uid
      raise Evrel::Refused.new("#{@source.source_name} is not as it was when it was sealed as the source",
                               where: "port #{attached.port}", hint: 'see what uses it, and seal it again')
    end

    @attached = attached
    self
  end

  # @yieldparam opened [Evrel::Image::Live] closed afterwards
  # @raise [Evrel::Away, Evrel::Refused] as `ready`
  def open
    ready unless @attached
    opened = DriveAccess.live(@attached, taken_at: @source.taken_at)
    yield opened
  ensure
    opened&.close
  end

  def there? = !AttachedDrives.of(@source.drive).nil?
end
