# frozen_string_literal: true

# How a docket's write is to be done: as somebody chose, or as its case suggests.
class ChosenOptions
  # @param docket [Docket] with image and target sealed
  def initialize(docket)
    @docket = docket
  end

  # @return [Hash] unused and skip_identical, as in Evrel::Restore::WriteOptions
  def to_h = { 'unused' => 'discard', 'skip_identical' => own_drive? }.merge(@docket.write_options.to_h)

  # @return [Evrel::Restore::WriteOptions]
  # @raise [Evrel::Refused]
  def options = Evrel::Restore::WriteOptions.new(**to_h.symbolize_keys)

  # @param given [Hash] either or both
  # @raise [Evrel::Refused] by values that are none, or once the write was begun
  def choose(given)
    raise Evrel::Refused.new('the write was begun already', where: 'options') if @docket.write

    chosen = to_h.merge(given.slice('unused', 'skip_identical'))
    raise Evrel::Refused.new('“skip_identical” is true or false', where: 'skip_identical') unless [true,
                                                                                                   false].include?(chosen['skip_identical'])

    Evrel::Restore::WriteOptions.new(**chosen.symbolize_keys)
    @docket.update!(write_options: chosen)
  end

  # Back onto the drive that the image was taken of, most of it is there already.
  def own_drive?
    serial = @docket.source && @docket.source.document.drive['serial']
    !serial.nil? && serial == @docket.target&.serial
  end
end
