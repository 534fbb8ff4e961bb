# frozen_string_literal: true

# Screens that can be laid beside each other: of this disk's last trial start,
# of the image's own, and of the restore before this one.
class StartPictures
  def initialize(docket)
    @docket = docket
  end

  # @return [Array<Hash>] title, at, outcome, picture
  def list
    [['This disk', of_disk(@docket.write)], ['The image, before the write', of_image], ['The restore before this one', of_disk(earlier)]]
      .filter_map { |title, trial| trial && view(title, trial) }
  end

  private

  def done = TrialStart.where(state: 'done').where.not(picture: nil).order(:id)
  def of_disk(write) = write && done.where(write:).last
  def of_image = @docket.source && done.where(image: @docket.source).last

  # Of the same computer.
  def earlier
    Write.joins(:docket).where(dockets: { computer_id: @docket.computer_id },
                               verified: true).where.not(id: @docket.write&.id).order(:id).last
  end

  def view(title, trial)
    { title:, at: trial.updated_at.iso8601, outcome: trial.outcome, picture: TrialView.of(trial)[:picture] }
  end
end
