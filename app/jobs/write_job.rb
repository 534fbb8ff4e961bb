# frozen_string_literal: true

# Carries out a write in the worker, together with those of the same run that
# wait, and with the image that is kept of its source on the way. Started again
# after the worker was killed, each goes on from its journal.
WriteJob = Struct.new(:write_id) do
  def perform
    write = Write.find(write_id)
    return unless open?(write)

    Owner.of_all([write, *WrittenTogether.waiting_with(write)]) do |owned|
      still = owned.map(&:reload).select { |one| open?(one) }
      Awake.while { WrittenTogether.new(still.grep(Write), still.grep(Taking)).call } if still.any?
    end
  end

  private

  def open?(work) = %w[queued running].include?(work.state)
end
