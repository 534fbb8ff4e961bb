# frozen_string_literal: true

# Takings for the pages: those that somebody waits for, and the last that ended.
class TakingList
  ENDED = 20

  # @return [Array<Hash>] as TakingView, the newest first, what is not over before the rest
  def to_a
    all = Taking.includes(:technician, :shelf, :image, :onto, drive: :computer).order(id: :desc)
    (all.unfinished.to_a + all.where.not(id: Taking.unfinished).limit(ENDED)).map { |one| TakingView.of(one) }
  end
end
