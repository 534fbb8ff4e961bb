# frozen_string_literal: true

# Takings whose drive or shelf had gone go on by themselves when both are there.
# A drive may come back in another port: it is only read.
module TakingResume
  module_function

  # Looks whenever this process' worker has nothing to do.
  def watch = Delayed::Worker.lifecycle.before(:loop) { resume }

  # @return [Array<Taking>] those that go on
  def resume
    Taking.here.where(state: 'failed').where.not(away: nil).select { |taking| back?(taking) }.each do |taking|
      TakingKeeper.new(taking.technician).go_on(taking)
    rescue Evrel::Error => e
      # The page says so, and nobody is asked twice a second.
      taking.update!(away: nil, error: [e.message, e.hint].compact.join('; '))
    end
  end

  def back?(taking) = taking.shelf && AttachedDrives.of(taking.drive) && ShelfAccess.there?(taking.shelf)
end
