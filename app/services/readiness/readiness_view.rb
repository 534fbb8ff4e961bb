# frozen_string_literal: true

# One computer's readiness as the pages see it.
module ReadinessView
  module_function

  # @param row [ReadinessList::Row]
  # @param proofs [Hash{Integer=>Proof}] computer → its last one
  # @param expected [#call] id of an image → Evrel::Restore::Estimate::Range, or nil
  # @return [Hash]
  def of(row, proofs:, expected:)
    verdict = row.verdict
    time = verdict.copy && expected.call(verdict.copy.id)
    { id: row.computer.id, name: row.computer.name, place: row.computer.place, wish_days: row.computer.wish_days, state: verdict.state,
      because: verdict.because, facts: verdict.facts.map(&:to_h), todo: verdict.todo, image: verdict.copy&.id,
      takes: time && { low: time.low, high: time.high }, marks: marks(row), proof: proofs[row.computer.id]&.then { |one| proof(one) } }
  end

  def marks(row)
    row.copies.max_by(ReadinessList::MARKS, &:taken_at).map do |copy|
      { id: copy.id, taken_at: copy.taken_at.iso8601, state: copy.usable? ? copy.state : 'damaged', checked: copy.checked?,
        complete: copy.complete?, started: copy.start == :reached }
    end
  end

  # @param proof [Proof]
  def proof(proof)
    { id: proof.id, computer_id: proof.computer_id, state: proof.state, outcome: proof.outcome, message: proof.message, held: proof.held,
      by_night: proof.by_night, by: proof.technician.short_name, at: (proof.finished_at || proof.created_at).iso8601,
      percent: percent(proof) }
  end

  # Of the check; a start has no end that is known.
  def percent(proof)
    told = proof.state == 'checking' && Image.where(id: proof.image_id).pick(:check_progress)
    (told['done'] * 100 / told['total']).clamp(0, 100) if told && told['total'].to_i.positive?
  end
end
