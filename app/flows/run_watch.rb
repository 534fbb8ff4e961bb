# frozen_string_literal: true

# What a run takes by itself, as drives move. Two ways, one at a time, each begun
# by a technician, in whose name it goes on:
#
#   unplug   whatever is pulled and plugged in again goes to the next computer: a hand was on it
#   next     whatever is plugged in and blank goes to the next computer, and is written at once
#
# It ends when each computer has a drive, when somebody says so, or when nothing
# has moved for TIME.
class RunWatch
  WAYS = %w[unplug next].freeze
  TIME = 30 * 60 # seconds
  SAID = 5 # things that it could not take are remembered

  # Looks at what has moved at the benches of this host.
  def self.follow_all
    Run.where.not(watch: nil).find_each { |run| new(run).follow }
  end

  # @param run [Run]
  def initialize(run)
    @run = run
  end

  # @param technician [Technician]
  # @param way [String] one of WAYS
  # @param reason [String, nil] why what is on them may be overwritten, where that needs one
  # @raise [Evrel::Refused]
  def begin(technician, way, reason)
    raise Evrel::Refused.new('a run watches for drives that are unplugged, or for the next', where: 'way') unless WAYS.include?(way)
    raise Evrel::Refused.new('each of its computers has a drive', where: 'run') unless @run.next_docket

    from = Benches.names.to_h { |name| [name, Benches[name].last_move] }
    @run.update!(watch: { way:, reason: reason.presence, technician_id: technician.id, from:, away: [], said: [], ends_at: ends_at })
    what = way == 'unplug' ? 'drives are proved by unplugging' : 'each blank drive that comes is taken and written'
    Event.add('run_watch', "#{@run.number}: #{what}", technician:)
  end

  # @param technician [Technician]
  def end(technician)
    return unless @run.watch

    @run.update!(watch: nil)
    Event.add('run_watch', "#{@run.number} takes no drive by itself any more", technician:)
  end

  # Looks at what has moved since it began.
  def follow = @run.with_lock { look if @run.watch }

  private

  def look
    @watch = @run.watch.deep_dup
    moved = Benches.names.flat_map { |name| moves(name) }
    return (@run.update!(watch: nil) if past?) if moved.empty?

    AttachedDrives.remember
    moved.each { |bench, move| take(bench, move) }
    @watch['ends_at'] = ends_at
    @run.update!(watch: (@watch if @run.next_docket))
  end

  def past? = Time.now > Time.iso8601(@watch['ends_at'])

  def ends_at = (Time.now + TIME).iso8601

  # @return [Array<(String, Evrel::Bench::Move)>] that were not looked at yet
  def moves(name)
    since = @watch['from'][name]
    return [] unless since # another host's

    found = Benches[name].moves(since:)
    @watch['from'][name] = found.last.number if found.any?
    found.reject { |move| move.what == :changed }.map { |move| [name, move] }
  end

  def take(bench, move)
    slot = "#{bench} #{move.name}"
    back = @watch['away'].delete(slot)
    return @watch['away'] << slot if move.what == :pulled
    return if @watch['way'] == 'unplug' && back.nil?

    attached = AttachedDrives.list.find { |one| one.bench.name == bench && one.handle == move.name }
    proved(attached) if attached && @run.next_docket && !in_the_row?(attached)
  end

  # One that was pulled in the middle of its write comes back for that.
  def in_the_row?(attached)
    record = AttachedDrives.records[attached.key]
    record.nil? || @run.dockets.any? { |docket| docket.target == record }
  end

  # What cannot be taken is said, and the next one is waited for.
  def proved(attached)
    ActiveRecord::Base.transaction(requires_new: true) do
      @run.dockets.reset
      keeper = RunKeeper.new(@run, Technician.find(@watch['technician_id']))
      if @watch['way'] == 'unplug'
        keeper.prove_unplugged(attached, @watch['reason'])
      else
        keeper.prove_blank([AttachedDrives.records.fetch(attached.key).id], @watch['reason'])
        @run.dockets.reset
        keeper.start
      end
    end
  rescue Evrel::Error => e
    before = @watch['said'].reject { |one| one['port'] == attached.port }
    @watch['said'] = [*before, { 'port' => attached.port, 'message' => e.message }].last(SAID)
  end
end
