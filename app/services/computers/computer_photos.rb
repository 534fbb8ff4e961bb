# frozen_string_literal: true

# Photos of a computer, each with a line in its trail.
class ComputerPhotos
  WORDS = { 'label' => 'its label', 'inside' => 'its inside', 'other' => 'it' }.freeze

  # @param computer [Computer]
  def initialize(computer)
    @computer = computer
  end

  # @param of [String] of ComputerPhoto::OF
  # @param body [#read]
  # @param by [Technician]
  # @raise [Evrel::Refused] where it is no picture, too large, or one too many
  def add(of, body, by)
    most = ComputerPhoto::MOST
    if @computer.photos.count >= most
      raise Evrel::Refused.new("there are #{most} photos of #{@computer.name} already", where: 'photo', hint: 'take one away first')
    end

    file = "computer-#{@computer.id}-#{SecureRandom.hex(6)}.jpg"
    Photo.keep(body, Config.path('pictures', file))
    @computer.photos.create!(of:, file:, technician: by)
    note("photo of #{WORDS.fetch(of)} added", by)
  end

  # @param photo [ComputerPhoto]
  def take_away(photo, by)
    photo.destroy!
    note("photo of #{WORDS.fetch(photo.of)} taken away", by)
  end

  private

  def note(what, by)
    Event.add('computer_changed', "#{@computer.name}: #{what}", technician: by, data: { computer_id: @computer.id })
  end
end
