# frozen_string_literal: true

# The last look before a byte is written: everything sealed, and the target is
# the drive that was sealed, unchanged, and still not refused.
class Guard
  # The drive itself was found to be another than the sealed one.
  class Changed < Evrel::Refused; end

  NEEDED = %w[computer image target layout].freeze

  # @param docket [Docket]
  # @param going_on [Boolean] the drive was half written by the same write: its
  #   contents are bound to differ, its identity is not
  def initialize(docket, going_on: false)
    @docket = docket
    @going_on = going_on
  end

  # @return [Evrel::Bench::Drive] the target
  # @raise [Evrel::Refused] with both sides; the seal is broken where it no longer holds
  # @raise [Evrel::Away] where it was pulled a moment ago
  def check
    open = NEEDED.find { |station| !@docket.sealed?(station) }
    raise Evrel::Refused.new("#{open.capitalize} is not sealed", where: 'write') if open

    drive = @docket.target
    attached = AttachedDrives.of(drive) or
      raise Evrel::Refused.new('the sealed drive is not attached', where: 'target', hint: 'plug it in again')
    AttachedDrives.forget(attached) # what was known of it may be hours old
    same!(attached)
    still_blank!(attached)
    judge!(attached)
    attached
  end

  private

  def same!(attached)
    differences = @docket.seal('target').identity.differences(AttachedDrives.identity(attached))
    differences.reject!(&:contents?) if @going_on
    return if differences.empty?
    # Pulled a moment ago, it gives nothing that could be held against the seal.
    raise Evrel::Away.new('the drive does not answer any more', where: "port #{attached.port}") unless AttachedDrives.of(@docket.target)

    raise Changed.new("the drive on port #{attached.port} is not as it was sealed: #{differences.join('; ')}",
                      where: 'target', hint: 'look at the drive and seal the target again')
  end

  # Nobody has looked at its label: that nothing lies on it is all that was proved. So it is read once more.
  def still_blank!(attached)
    return if @going_on || @docket.seal('target').decision['proof'] != 'blank'
    return if attached.apart { |disk| Evrel::Survey.of(disk).blank? }

    raise Changed.new("the drive on port #{attached.port} is not blank any more", where: 'target', hint: 'prove it by its label')
  end

  def judge!(attached)
    raise Evrel::Refused.new('the drive is no longer locked to this docket', where: 'target') unless @docket.target.docket_id == @docket.id

    TargetVerdict.refuse!(attached, TargetVerdict.new(@docket).of(attached))
  end
end
