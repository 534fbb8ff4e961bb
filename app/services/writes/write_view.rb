# frozen_string_literal: true

# A write as the pages see it.
module WriteView
  module_function

  # @param write [Write]
  def of(write)
    { id: write.id, docket_id: write.docket_id, state: write.state, progress: write.progress || {}, speeds: write.speeds || [],
      error: write.error, summary: write.summary, port: write.port, pause_asked: write.pause_asked, verified: write.verified,
      mismatches: write.mismatches || [], started_at: write.started_at&.iso8601, finished_at: write.finished_at&.iso8601,
      stop_asked: write.stop_asked, technician: write.technician.short_name, left: TimeLeft.of(write), **values(write) }
  end

  def values(write)
    { outcomes: write.outcomes.to_a.map(&:to_h), trouble: write.trouble&.to_h, decisions: write.decisions.to_a.map do |one|
      one.to_h.compact
    end }
  end
  private_class_method :values
end
