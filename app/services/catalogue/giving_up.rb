# frozen_string_literal: true

# Gives an image up: it is in no list, no proposal and no readiness from then
# on. Nothing on its shelf is touched, and it can be taken back.
class GivingUp
  # @param image [Image]
  # @param by [Technician]
  def initialize(image, by)
    @image = image
    @by = by
  end

  # @param because [String]
  # @raise [Evrel::Refused] while somebody needs it
  def give_up(because)
    idle!
    @image.update!(given_up_at: Time.now.utc, given_up_because: because)
    note('given up', because)
  end

  def take_back
    @image.update!(given_up_at: nil, given_up_because: nil)
    note('taken back', nil)
  end

  private

  def idle!
    docket = Docket.open_on(@image.id).first
    raise Evrel::Refused.new("#{docket.number} is sealed on it", where: 'image', hint: 'break that seal first') if docket

    above = @image.built_on.count
    if above.positive?
      raise Evrel::Refused.new("#{Words.count(above, 'image')} on its shelf #{above == 1 ? 'holds' : 'hold'} only what differs from it",
                               where: 'image', hint: 'make them whole first')
    end
    busy = @image.state == 'checking' || @image.trial_starts.exists?(state: %w[queued running]) || Proof.open.exists?(image: @image)
    raise Evrel::Refused.new('it is being read just now', where: 'image', hint: 'wait for its end, or stop it') if busy
  end

  def note(what, because)
    Event.add('image_given_up', ["Image of #{Words.time(@image.taken_at)} on #{@image.shelf.name} #{what}", because].compact.join(': '),
              technician: @by, data: { image_id: @image.id })
  end
end
