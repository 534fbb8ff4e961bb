# frozen_string_literal: true

# How a docket's write is to be done: as somebody chose, or as its case suggests.
class ChosenOptions
  SWITCHES = %w[skip_identical read_twice].freeze

  # @param docket [Docket] with image and target sealed
  def initialize(docket)
    @docket = docket
  end

  # @return [Hash] unused, skip_identical and read_twice, as in Evrel::Restore::WriteOptions; keep_on: id of the shelf onto which
  #   an image of the drive is taken that is the source, or nil
  def to_h
    { 'unused' => 'discard', 'skip_identical' => own_drive?, 'read_twice' => false, 'keep_on' => nil }.merge(@docket.write_options.to_h)
  end

  # @return [Evrel::Restore::WriteOptions]
  # @raise [Evrel::Refused]
  def options = Evrel::Restore::WriteOptions.new(**to_h.except('keep_on').symbolize_keys)

  # @param given [Hash] any of them
  # @raise [Evrel::Refused] by values that are none, or once the write was begun
  def choose(given)
    raise Evrel::Refused.new('the write was begun already', where: 'options') if @docket.write

    chosen = to_h.merge(given.slice('unused', 'keep_on', *SWITCHES))
    wrong = SWITCHES.find { |name| ![true, false].include?(chosen[name]) }
    raise Evrel::Refused.new("“#{wrong}” is true or false", where: wrong) if wrong

    Evrel::Restore::WriteOptions.new(**chosen.except('keep_on').symbolize_keys)
    TakingPlaces.new(source_drive!).refuse!(Shelf.find(chosen['keep_on'])) if chosen['keep_on']
    @docket.update!(write_options: chosen)
  end

  # @return [Array<Hash>] shelves onto which an image of the drive could be taken along: id, name, free_bytes, state and why
  def shelves
    return [] unless @docket.source.is_a?(DriveSource)

    TakingPlaces.new(@docket.source.drive).all.map { |one| one.slice(:id, :name, :free_bytes, :state, :why) }
  end

  # Back onto the drive that the image was taken of, most of it is there already.
  def own_drive?
    serial = @docket.source && @docket.source.document.drive['serial']
    !serial.nil? && serial == @docket.target&.serial
  end

  private

  def source_drive!
    source = @docket.source
    return source.drive if source.is_a?(DriveSource)

    raise Evrel::Refused.new('an image is taken along of a drive that is restored from', where: 'keep_on')
  end
end
