# frozen_string_literal: true

# The proof by the drive's own label: its last four characters, typed. What is
# typed is looked up among all attached drives; nothing is given away about the
# right one. After three wrong tries within a minute nobody tries for a minute.
class LabelProof
  TRIES = 3
  PAUSE = 60 # seconds

  # A wrong label: what is counted of it stays, though it is refused.
  class Wrong < Evrel::Refused
    def counts? = true
  end

  # @param judged [Array<(Evrel::Bench::Drive, Evrel::Safety::Verdict)>]
  # @param docket [Docket, nil] whose tries count; without one, those of all work on drives
  # @param among [Array<Docket>] whose tries count too
  def initialize(judged, docket: nil, among: [])
    @judged = judged
    @docket = docket
    @among = [docket, *among].uniq
  end

  # @param attached [Evrel::Bench::Drive] that was chosen
  # @param typed [String]
  # @raise [Evrel::Refused]
  def check(attached, typed, technician)
    check_pause
    typed = typed.strip.upcase
    return if Evrel::Identity.provable?(attached.serial) && typed == attached.serial[-4..].upcase

    wrong!(typed, "A wrong label was typed for port #{attached.port}", technician)
  end

  # Any of them, by its label alone.
  # @param typed [String]
  # @return [Evrel::Bench::Drive] whose it is
  # @raise [Evrel::Refused]
  def whose(typed, technician)
    check_pause
    typed = typed.strip.upcase
    found = ending(typed)
    if found.size > 1
      ports = Evrel::Units.list(found.map { |drive, _| drive.port })
      raise Evrel::Refused.new("the labels of the drives in port #{ports} end alike",
                               where: 'label', hint: 'take one of them out first')
    end
    return found.first.first if found.any?

    wrong!(typed, 'A label was typed that no attached drive has', technician)
  end

  # @return [Time, nil]
  def locked_until
    times = Event.where(kind: 'label_wrong', docket: @among, created_at: Lately.within(PAUSE)).order(:id).pluck(:created_at)
    times.last + PAUSE if times.size >= TRIES
  end

  private

  def check_pause
    return unless (till = locked_until)

    raise Evrel::Refused.new("three wrong labels: this station is locked until #{till.getlocal.strftime('%H:%M:%S')}",
                             where: 'label', hint: 'take the drive out and read its label again')
  end

  # @param typed [String] in capitals
  def wrong!(typed, what, technician)
    Event.add('label_wrong', what, docket: @docket, technician:)
    raise Wrong.new(other(typed), where: 'label', hint: 'read the last four characters on the drive’s own label')
  end

  def ending(typed)
    @judged.select { |drive, _| typed.length == 4 && Evrel::Identity.provable?(drive.serial) && drive.serial[-4..].upcase == typed }
  end

  def other(typed)
    other, verdict = ending(typed).first
    return 'no attached drive has a label that ends like this' unless other

    "the label you read is the drive in port #{other.port}" \
      "#{", which is refused: #{verdict.reason.title.sub(/\A[A-Z]/, &:downcase)}" if verdict.refused?}"
  end
end
