# frozen_string_literal: true

# A trial start as the pages see it.
module TrialView
  module_function

  # @param trial [TrialStart]
  def of(trial)
    { id: trial.id, state: trial.state, outcome: trial.outcome, seconds: trial.seconds, lines: trial.lines || [],
      message: trial.message, at: trial.updated_at.iso8601,
      picture: trial.picture && "/api/trials/#{trial.id}/picture" }
  end
end
