# frozen_string_literal: true

# Gives an image up: it is in no list, no proposal and no readiness from then
# on. It lies in the bin for some days, and can be taken back.
class GivingUp
  # @param image [Image]
  # @param by [Technician, nil]
  def initialize(image, by)
    @image = image
    @by = by
  end

  # @param because [String]
  # @raise [Evrel::Refused] while somebody needs it
  def give_up(because)
    idle!
    last!
    # A web place is only read: its files stay.
    @image.update!(given_up_at: Time.now.utc, given_up_because: because,
                   bin_until: (Bin::DAYS.days.from_now unless @image.shelf.kind == 'web'), bin_days: 0, bin_day: nil)
    note('given up', because)
  end

  # @raise [Evrel::Refused] where there is nothing to take back
  def take_back
    raise Evrel::Refused.new('its files were removed from its shelf', where: 'image') if @image.gone_at

    @image.update!(given_up_at: nil, given_up_because: nil, bin_until: nil)
    note('taken back', nil)
  end

  # @raise [Evrel::Refused] while somebody needs it
  def idle!
    docket = Docket.open_on(@image.id).first
    raise Evrel::Refused.new("#{docket.number} is sealed on it", where: 'image', hint: 'break that seal first') if docket

    unused!
  end

  # @raise [Evrel::Refused] while it is read, or others build on it
  def unused!
    above = @image.built_on.count
    if above.positive?
      raise Evrel::Refused.new("#{Words.count(above, 'image')} on its shelf #{above == 1 ? 'holds' : 'hold'} only what differs from it",
                               where: 'image', hint: 'make them whole first')
    end
    raise Evrel::Refused.new('it is being read just now', where: 'image', hint: 'wait for its end, or stop it') if read_now?
  end

  private

  def read_now?
    @image.state == 'checking' || @image.trial_starts.exists?(state: %w[queued running]) || Proof.open.exists?(image: @image) ||
      ImageTask.open.exists?(image: @image) || Write.of_images.exists?(source_id: @image.id, state: %w[queued running]) ||
      Taking.unfinished.exists?(onto: @image)
  end

  def last!
    return unless @image.computer && @image.whole?
    return if Image.there.where(computer: @image.computer, state: 'whole').where.not(id: @image.id).exists?

    raise Evrel::Refused.new("it is the last whole image of #{@image.computer.name}", where: 'image',
                                                                                      hint: 'take or check another one first')
  end

  def note(what, because)
    Event.add('image_given_up', ["Image of #{Words.time(@image.taken_at)} on #{@image.shelf.name} #{what}", because].compact.join(': '),
              technician: @by, data: { image_id: @image.id })
  end
end
