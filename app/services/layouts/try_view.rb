# frozen_string_literal: true

# A dry run of a layout as the pages see it.
module TryView
  module_function

  # @param tried [LayoutTry]
  # @return [Hash]
  def of(tried)
    { id: tried.id, docket_id: tried.docket_id, state: tried.state, digest: tried.digest, progress: tried.progress,
      facts: tried.facts || [], error: tried.error, stop_asked: tried.stop_asked, at: tried.updated_at.iso8601,
      by: tried.technician.short_name, startable: tried.startable?, trial: trial(tried) }
  end

  def trial(tried) = tried.trial_starts.order(:id).last&.then { |one| TrialView.of(one) }
  private_class_method :trial
end
