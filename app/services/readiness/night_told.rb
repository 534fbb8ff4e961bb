# frozen_string_literal: true

# What became of the proofs of the last night, and what does not start any more:
# told where the day begins.
module NightTold
  MOST = 8

  module_function

  # @param now [Time]
  # @return [Hash] window, night (nil where none was) and news
  def of(now = Time.now)
    window = NightWindow.here
    { window: window && { begins: window.begins, ends: window.ends, by: window.technician.short_name }, night: window && night(window, now),
      news: news.map { |proof| line(proof) } }
  end

  def night(window, now)
    since = window.last_begun(now)
    proofs = Proof.done.where(by_night: true, created_at: since..)
    counts = proofs.group(:outcome).count
    return if counts.empty?

    { since: since.iso8601, proved: counts.fetch('proved', 0), others: counts.except('proved').values.sum,
      lines: proofs.where.not(outcome: 'proved').includes(:computer).order(id: :desc).limit(MOST).map { |proof| line(proof) } }
  end

  # Computers that were proved once, and are not any more.
  def news
    last = Proof.done.where.not(outcome: %w[stopped unknown]).group(:computer_id).select('MAX(id)')
    Proof.where(id: last).where.not(outcome: 'proved').where(computer_id: Proof.done.where(outcome: 'proved').select(:computer_id))
         .includes(:computer).order(id: :desc).limit(MOST)
  end

  def line(proof) = { computer_id: proof.computer_id, computer: proof.computer.name, message: proof.message, at: proof.finished_at.iso8601 }
end
