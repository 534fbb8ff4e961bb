# frozen_string_literal: true

# The one living owner of a piece of work: the process that does it. Beats count
# up while it does; whoever watches needs no clock but its own.
class Owner < ActiveRecord::Base
  EVERY = 1.0 # seconds between two beats

  class << self
    # @param row [ActiveRecord::Base] what the work is about
    # @return [String]
    def name_of(row) = "#{row.class.name} #{row.id}"

    # Does the work, unless somebody else does it already.
    # @yield while this process owns it
    # @return [Object, nil] what the block gives
    def of(row, &work) = of_all([row]) { work.call }

    # Does the work of several, as far as nobody else does it already.
    # @param rows [Array<ActiveRecord::Base>]
    # @yieldparam owned [Array<ActiveRecord::Base>] at least one
    # @return [Object, nil] what the block gives
    def of_all(rows)
      claimed = rows.to_h { |row| [row, claim(name_of(row))] }.compact
      return if claimed.empty?

      beating = Beating.new(claimed.values.map(&:id))
      yield claimed.keys
    ensure
      beating&.stop
      claimed&.each_value { |owner| release(owner) }
    end

    # The entry of a piece of work, taken until the block has ended. What others hold of what is not there yet would keep
    # two that begin different work at the same moment waiting for each other; see isolation levels of InnoDB.
    # @param work [String] as name_of
    # @yieldparam owner [Owner]
    # @return [Object] what the block gives
    # @raise [ActiveRecord::RecordNotUnique] where somebody was a moment earlier
    def entry(work)
      transaction(isolation: :read_committed) { yield lock.find_by(work:) || create!(work:) }
    end

    # Of several, this one has ended: others may go on with it.
    def done(row) = where(work: name_of(row), process: Workplace.name).delete_all

    # What this process was doing it does no more.
    def let_go = where(process: Workplace.name).update_all(process: nil)

    private

    def claim(work)
      entry(work) do |owner|
        # A process does one thing at a time: what it owned before it does no more.
        next if owner.process && owner.process != Workplace.name && Workplace.alive?(owner.process) != false

        owner.update!(process: Workplace.name, beats: owner.beats + 1)
        owner
      end
    rescue ActiveRecord::RecordNotUnique
      nil # somebody was a moment earlier
    end

    # Work that ended has no owner any more. Where that cannot be written down, it is found out.
    def release(owner) = where(id: owner.id, process: Workplace.name).delete_all
  end

  # Counts up in a thread of its own, so that work which waits for something is known to live.
  class Beating
    # @param ids [Array<Integer>]
    def initialize(ids)
      @lock = Mutex.new
      @wake = ConditionVariable.new
      @thread = Thread.new { beat(ids) }
    end

    def stop
      @lock.synchronize do
        @ended = true
        @wake.signal
      end
      @thread.join
    end

    private

    def beat(ids)
      @lock.synchronize do
        until @ended
          @wake.wait(@lock, EVERY)
          count(ids) unless @ended
        end
      end
    end

    def count(ids)
      ActiveRecord::Base.connection_pool.with_connection { Owner.where(id: ids).update_all('beats = beats + 1') }
    rescue ActiveRecord::ActiveRecordError
      nil # it is told by the next one, or found to be dead
    end
  end
  private_constant :Beating
end
