# frozen_string_literal: true

# Goes on with proofs, one at a time, as their checks and trial starts come on.
# What they are at stands in the database: whoever looks next goes on from there.
# A write that runs or waits has the bench for itself: what is read meanwhile is
# put aside, and taken up when the write is over.
class Proving
  EVERY = 2      # seconds between two looks
  IDLE = 300     # seconds until a night in which nothing was left to prove is looked through again

  class << self
    # From now on, in a thread of its own.
    def watch
      rounds = new
      Rounds.every(EVERY) { rounds.go_on }
    end
  end

  # @param now [Time]
  def go_on(now = Time.now)
    night(now)
    proof = Proof.here.open.order(Arel.sql("state = 'waiting'"), :by_night, :id).first or return
    proof.with_lock { step(proof) unless proof.state == 'done' }
  end

  private

  def step(proof)
    case proof.state
    when 'waiting' then begin_check(proof) unless writes?
    when 'checking' then checking(proof)
    when 'starting' then starting(proof)
    end
  end

  def writes? = Write.here.exists?(state: %w[queued running])

  def begin_check(proof)
    image = proof.image
    return proof.finish('unknown', "shelf #{image.shelf.name} is not attached") unless ShelfAccess.there?(image.shelf)
    return begin_start(proof) if image.whole? && !image.due? && !(proof.by_night && image.checked_at < Proof::HOLDS.ago)

    image.begin_check
    proof.update!(state: 'checking', held: false)
  end

  def checking(proof)
    image = proof.image
    case image.state
    when 'checking' then hold(proof) { image.update!(pause_asked: true) }
    when 'paused' then paused(proof, image)
    when 'whole' then begin_start(proof)
    when 'unchecked' then proof.finish('unknown', "the image of #{Words.time(image.taken_at)} could not be read")
    else proof.finish('damaged', "the image of #{Words.time(image.taken_at)} is #{image.state}")
    end
  end

  # By a write, or by somebody.
  def paused(proof, image)
    return proof.finish('stopped', 'its check was paused') unless proof.held
    return if writes?

    image.begin_check
    proof.update!(held: false)
  end

  def begin_start(proof)
    return proof.update!(state: 'waiting') if writes?

    trial = proof.image.trial_starts.under_way_or_new({ docket_id: nil }, technician: proof.technician)
    proof.update!(state: 'starting', trial_start: trial, held: false)
  end

  def starting(proof)
    trial = proof.trial_start
    return hold(proof) { trial.update!(stop_asked: true) } unless trial.state == 'done'
    return proof.update!(state: 'waiting', held: false) if trial.outcome == 'stopped' && proof.held

    image = "the image of #{Words.time(proof.image.taken_at)}"
    return proof.finish('proved', "#{image} is whole, and was seen to start") if trial.reached?

    proof.finish(came_to(trial), "#{image}: #{trial.message}")
  end

  def came_to(trial)
    return 'not_started' if trial.not_started?

    trial.outcome == 'stopped' ? 'stopped' : 'unknown'
  end

  def hold(proof)
    return if proof.held || !writes?

    yield
    proof.update!(held: true)
  end

  # In the hours that somebody chose, what was proved longest ago comes first.
  def night(now)
    window = NightWindow.here
    since = window&.open_since(now) or return
    return if (@idle && now - @idle < IDLE) || Proof.here.open.exists? || writes?

    computer, image = ReadinessList.new(now:).to_prove(since)
    return @idle = now unless computer

    @idle = nil
    Proof.of(computer, image, technician: window.technician, by_night: true)
  end
end
