# frozen_string_literal: true

# A write as the pages see it.
module WriteView
  module_function

  # @param write [Write]
  def of(write)
    { id: write.id, docket_id: write.docket_id, state: write.state, progress: write.progress || {}, speeds: write.speeds || [],
      outcomes: write.outcomes || [], error: write.error, trouble: write.trouble, decisions: write.decisions || [], summary: write.summary,
      port: write.port, pause_asked: write.pause_asked, verified: write.verified, mismatches: write.mismatches || [],
      started_at: write.started_at&.iso8601, finished_at: write.finished_at&.iso8601, stop_asked: write.stop_asked,
      technician: write.technician.short_name, left: TimeLeft.of(write) }
  end
end
