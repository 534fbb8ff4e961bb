# frozen_string_literal: true

# The proof by unplugging: one port goes empty, and the same drive comes back,
# while nothing else moves. Without a docket it is for work on the drive itself.
# state: waiting, away, passed or void.
class UnplugCheck < ActiveRecord::Base
  include AtBench

  TIME = 90    # seconds in which it must be back
  HOLDS = 300  # seconds for which a passed check is good for a seal

  belongs_to :docket, optional: true
  belongs_to :drive
  belongs_to :technician

  scope :under_way, -> { where(state: %w[waiting away]) }

  # @param docket [Docket, nil]
  # @param attached [Evrel::Bench::Drive]
  # @return [UnplugCheck]
  def self.begin(docket, drive, attached, technician)
    give_up(docket, 'another check was started')
    create!(docket:, drive:, technician:, bench: attached.bench.name, port: attached.port, ends_at: Time.now + TIME,
            from_move: attached.bench.last_move)
  end

  # Ends those that run for a docket, or for work on drives.
  def self.give_up(docket, reason) = where(docket:, state: %w[waiting away]).find_each { |one| one.void(reason) }

  # @return [UnplugCheck, nil] the last one
  def self.latest(docket) = where(docket:).order(:id).last

  # @raise [Evrel::Refused] unless the drive was proved a short while ago
  def self.prove!(docket, drive)
    check = where(docket:, drive:).order(:id).last&.follow
    return if check&.good?

    raise Evrel::Refused.new("the unplug check has not passed#{": #{check.reason}" if check&.reason}", where: 'unplug',
                                                                                                       hint: 'start it again')
  end

  # @return [Hash, nil] as the pages see it, while it means something
  def view
    return unless running? || updated_at > HOLDS.seconds.ago

    { id:, drive_id:, port:, state:, reason:, ends_at: ends_at.iso8601, good: good? }
  end

  def running? = %w[waiting away].include?(state)
  def good? = state == 'passed' && updated_at > HOLDS.seconds.ago

  # Looks at what has moved since it began.
  # @return [UnplugCheck]
  def follow
    return self unless running?

    moves.each { |move| running? ? take(move) : break }
    void("it was not back within #{TIME} s") if running? && Time.now > ends_at
    self
  end

  def void(reason) = update!(state: 'void', reason:)

  private

  def moves = Benches[bench].moves(since: from_move).reject { |move| move.what == :changed }

  def take(move)
    return void("another drive moved, in port #{move.port}") unless move.name == handle
    return void('the time was over') if move.at > ends_at

    if move.what == :pulled
      update!(state: 'away', from_move: move.number)
    elsif state == 'away'
      back(move)
    end
  end

  def back(move)
    attached = drive.attached
    return void('another drive came back') unless attached

    update!(state: 'passed', port: move.port, from_move: move.number)
  end

  def handle = AttachedDrives.at_hand(drive.identity_key)&.handle
end
