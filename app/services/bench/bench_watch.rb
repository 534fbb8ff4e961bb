# frozen_string_literal: true

# What changes at this host's benches by itself is noted here, in the background:
# where drives are, how proofs by unplugging stand, which shelves are there, and
# which seals no longer hold. Whoever asks for a page only reads.
class BenchWatch
  EVERY = 0.4     # seconds between two rounds
  AGAIN = 60      # seconds after which all is noted again, though nothing has moved

  # A thread of its own, as long as this process lives.
  # @param also [#call, nil] is called in each round, when what has moved is known
  def self.run(also = nil)
    watch = new
    Rounds.every(EVERY, now: true) do
      watch.round
      also&.call
    end
  end

  # One look at everything.
  def round
    UnplugProof.follow_all
    now = [Benches.revision, Benches.drives.map { |drive| [drive.slot, drive.stamp] }]
    return if now == @noted && clock - @at < AGAIN

    note
    tell(now.first)
    @noted = now
    @at = clock
  end

  private

  def clock = Process.clock_gettime(Process::CLOCK_MONOTONIC)

  def note
    AttachedDrives.remember
    Shelf.where.not(kind: 'web').find_each do |shelf|
      there = ShelfAccess.there?(shelf)
      shelf.note_reachable(there) if shelf.reachable != there
    end
    SealWatch.check_all('target')
  end

  # Open pages are told once all of it is noted.
  def tell(revision)
    Benches.names.each do |name|
      state = BenchState.find_or_initialize_by(bench: name)
      state.update!(revision:) unless state.revision == revision
    end
  rescue ActiveRecord::RecordNotUnique
    nil # another process of this host was a moment faster
  end
end
