# frozen_string_literal: true

# For rows that stand for work in the background. A model that includes this
# answers, beside its states:
#
#   at_work, waiting     (class) rows that are marked as running, and as waiting for their turn
#   job, queue           what does the work, and where it waits; priority, where it does not come first
#   wait_again           marks it as waiting, since it will be done again
#   give_up(reason)      frees it, since it will not
module Worked
  def self.included(model) = model.extend(UnderWay)

  # For rows that are made for one piece of work each.
  module UnderWay
    # @param of [Hash] what it is about
    # @param fields [Hash] what a new one has besides
    # @return [ActiveRecord::Base] the one that is under way already, or a new one in its queue
    def under_way_or_new(of = {}, **fields)
      where(state: %w[queued running], **of).first || create!(**of, **fields).tap(&:enqueue)
    end
  end

  # Puts it into its queue.
  def enqueue = Delayed::Job.enqueue(job, queue:, priority:, work: Owner.name_of(self))
  def priority = 0

  # Of work that is interrupted because its process is to end: another one goes on with it.
  # @return [Boolean]
  def put_back
    wait_again
    Event.add('work_put_back', "#{work_words}: Evrel was stopped; it goes on when it runs again", docket: try(:docket))
    enqueue
    true
  end

  # Of work that broke off with an error. A stop ends the helpers of a process with it, maybe a moment before it is told
  # itself: what they leave behind is no finding.
  # @return [Boolean] whether it was put back
  def put_back_if_ending
    Workplace.ending_soon? && put_back
  end

  # @return [ActiveRecord::Relation] its jobs, whatever became of them
  def jobs = Delayed::Job.where(work: Owner.name_of(self))
end
