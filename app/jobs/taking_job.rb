# frozen_string_literal: true

# Takes an image in a worker. Started again after the worker was killed, it goes
# on from its files.
TakingJob = Struct.new(:taking_id) do
  def perform
    taking = Taking.find(taking_id)
    Owner.of(taking) { TakingWork.new(taking).call } if taking.open?
  end
end
