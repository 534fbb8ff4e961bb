# frozen_string_literal: true

# The proof by unplugging: one port goes empty, and the same drive comes back,
# while nothing else moves. What was seen of it is an UnplugCheck.
class UnplugProof
  # @param docket [Docket, nil] without one it is for work on the drive itself
  # @param drive [Drive]
  # @param attached [Evrel::Bench::Drive]
  # @return [UnplugCheck]
  def self.begin(docket, drive, attached, technician)
    give_up(docket, 'another check was started')
    UnplugCheck.create!(docket:, drive:, technician:, bench: attached.bench.name, port: attached.port,
                        ends_at: Time.now + UnplugCheck::TIME, from_move: attached.bench.last_move)
  end

  # One that was seen to move already.
  # @return [UnplugCheck] good for a seal
  def self.passed(docket, drive, attached, technician)
    UnplugCheck.create!(docket:, drive:, technician:, bench: attached.bench.name, port: attached.port, state: 'passed',
                        ends_at: Time.now, from_move: attached.bench.last_move)
  end

  # Ends those that run for a docket, or for work on drives.
  def self.give_up(docket, reason) = UnplugCheck.under_way.where(docket:).find_each { |one| one.void(reason) }

  # @raise [Evrel::Refused] unless the drive was proved a short while ago
  def self.prove!(docket, drive)
    check = UnplugCheck.where(docket:, drive:).order(:id).last
    return if check && new(check).follow.good?

    raise Evrel::Refused.new("the unplug check has not passed#{": #{check.reason}" if check&.reason}", where: 'unplug',
                                                                                                       hint: 'start it again')
  end

  # Looks at what has moved since each of them began.
  def self.follow_all = UnplugCheck.here.under_way.find_each { |check| new(check).follow }

  # @param check [UnplugCheck]
  def initialize(check)
    @check = check
  end

  # Looks at what has moved since it began.
  # @return [UnplugCheck]
  def follow
    return @check unless @check.running?

    moves.each { |move| @check.running? ? take(move) : break }
    @check.void("it was not back within #{UnplugCheck::TIME} s") if @check.running? && over?
    @check
  end

  private

  def over? = !Lately.at?(@check.ends_at - UnplugCheck::TIME, UnplugCheck::TIME)

  def moves = Benches[@check.bench].moves(since: @check.from_move).reject { |move| move.what == :changed }

  def take(move)
    return @check.void("another drive moved, in port #{move.port}") unless move.name == handle
    return @check.void('the time was over') if move.at > @check.ends_at

    if move.what == :pulled
      @check.update!(state: 'away', from_move: move.number)
    elsif @check.state == 'away'
      back(move)
    end
  end

  def back(move)
    return @check.void('another drive came back') unless AttachedDrives.of(@check.drive)

    @check.update!(state: 'passed', port: move.port, from_move: move.number)
  end

  def handle = AttachedDrives.at_hand(@check.drive.identity_key)&.handle
end
