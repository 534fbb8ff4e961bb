# frozen_string_literal: true

# How a docket's write is to be done: as somebody chose, or as its case suggests.
class ChosenOptions
  SWITCHES = %w[skip_identical read_twice].freeze

  # @param docket [Docket] with image and target sealed
  def initialize(docket)
    @docket = docket
  end

  # @return [Hash] unused, skip_identical and read_twice, as in Evrel::Restore::WriteOptions
  def to_h = { 'unused' => 'discard', 'skip_identical' => own_drive?, 'read_twice' => false }.merge(@docket.write_options.to_h)

  # @return [Evrel::Restore::WriteOptions]
  # @raise [Evrel::Refused]
  def options = Evrel::Restore::WriteOptions.new(**to_h.symbolize_keys)

  # @param given [Hash] any of them
  # @raise [Evrel::Refused] by values that are none, or once the write was begun
  def choose(given)
    raise Evrel::Refused.new('the write was begun already', where: 'options') if @docket.write

    chosen = to_h.merge(given.slice('unused', *SWITCHES))
    wrong = SWITCHES.find { |name| ![true, false].include?(chosen[name]) }
    raise Evrel::Refused.new("“#{wrong}” is true or false", where: wrong) if wrong

    Evrel::Restore::WriteOptions.new(**chosen.symbolize_keys)
    @docket.update!(write_options: chosen)
  end

  # Back onto the drive that the image was taken of, most of it is there already.
  def own_drive?
    serial = @docket.source && @docket.source.document.drive['serial']
    !serial.nil? && serial == @docket.target&.serial
  end
end
