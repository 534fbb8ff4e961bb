# frozen_string_literal: true

# How a docket's write is to be done: as somebody chose, or as its case suggests.
class WriteManner
  # @param docket [Docket] with image and target sealed
  def initialize(docket)
    @docket = docket
  end

  # @return [Hash] unused and differing, as in Evrel::Restore::Manner
  def to_h = { 'unused' => 'discard', 'differing' => own_drive? }.merge(@docket.write_manner.to_h)

  # @return [Evrel::Restore::Manner]
  # @raise [Evrel::Refused]
  def manner = Evrel::Restore::Manner.new(**to_h.symbolize_keys)

  # @param given [Hash] either or both
  # @raise [Evrel::Refused] by values that are none, or once the write was begun
  def choose(given)
    raise Evrel::Refused.new('the write was begun already', where: 'manner') if @docket.write

    chosen = to_h.merge(given.slice('unused', 'differing'))
    raise Evrel::Refused.new('“differing” is true or false', where: 'differing') unless [true, false].include?(chosen['differing'])

    Evrel::Restore::Manner.new(**chosen.symbolize_keys)
    @docket.update!(write_manner: chosen)
  end

  # Back onto the drive that the image was taken of, most of it is there already.
  def own_drive?
    serial = @docket.image && @docket.image.document.drive['serial']
    !serial.nil? && serial == @docket.target&.serial
  end
end
