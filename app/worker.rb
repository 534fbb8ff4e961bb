# frozen_string_literal: true

require_relative 'boot'

# The worker of this bench. A job that a killed worker left behind is taken
# again: writes go on from their journal.
worker = Delayed::Worker.new(queues: [Config.bench], quiet: true)
worker.name = "evrel #{Config.bench}"
Delayed::Job.clear_locks!(worker.name)
worker.start
