# frozen_string_literal: true

# A trial start as the pages see it.
module TrialView
  TEXT = 8000 # characters of what it said that a page gets

  module_function

  # @param trial [TrialStart]
  def of(trial)
    { id: trial.id, kind: trial.kind, state: trial.state, outcome: trial.outcome, seconds: trial.seconds, lines: trial.lines || [],
      text: trial.text.to_s.last(TEXT), milestones: trial.milestones || [], answer: trial.answer, wish: trial.wish || {},
      waits: waits(trial), message: trial.message, at: trial.updated_at.iso8601, technician: trial.technician.short_name,
      picture: trial.picture && "/api/trials/#{trial.id}/picture?at=#{trial.seconds.to_f.round(1)}" }
  end

  def waits(trial) = ('passphrase' if trial.state == 'running' && Evrel::Startup::Course.new.passphrase?([trial.text.to_s]))
end
