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

  # @param attached [Evrel::Bench::Drive]
  # @return [String] identity of it with what is on it now
  def self.uid(attached) = Evrel::Image::Live.uid(attached.key, AttachedDrives.contents(attached).fingerprint)

  # @param source [DriveSource]
  def initialize(source)
    @source = source
  end

  # @yieldparam opened [Evrel::Image::Live] closed afterwards
  # @raise [Evrel::Away] where it is not attached
  # @raise [Evrel::Refused] where it is not as it was sealed
  def open
    attached = AttachedDrives.of(@source.drive) or
      raise Evrel::Away.new("#{@source.source_name} is not attached", where: 'source', hint: 'plug it in again')
    unless DriveAccess.uid(attached) == @source.uid
      raise Evrel::Refused.new("#{@source.source_name} is not as it was when it was sealed as the source",
                               where: "port #{attached.port}", hint: 'see what uses it, and seal it again')
    end

    opened = DriveAccess.live(attached, taken_at: @source.taken_at)
    yield opened
  ensure
    opened&.close
  end

  def there? = !AttachedDrives.of(@source.drive).nil?
end
