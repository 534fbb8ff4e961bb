# frozen_string_literal: true

# Runs for the pages, and the computers that a new one may be for.
class RunList
  MOST = 60

  # @return [Array<Hash>] as RunView.head, the newest first
  def to_a = Run.includes(:technician, image: %i[computer shelf]).order(id: :desc).limit(MOST).map { |run| RunView.head(run) }

  # @param image [Image]
  # @return [Hash] what a new run of it may be for: those of the same model first, none that has an open docket in a run
  def self.for(image)
    busy = Docket.where(closed_at: nil).where.not(run_id: nil).pluck(:computer_id)
    model = image.document.computer['model'] || image.computer&.model
    computers = Computer.where.not(id: busy).order(:name).sort_by { |one| one.model == model ? 0 : 1 }
    { image: RunView.image(image),
      computers: computers.map { |one| { id: one.id, name: one.name, place: one.place, model: one.model, like: one.model == model } } }
  end
end
