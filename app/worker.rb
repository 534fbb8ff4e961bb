# frozen_string_literal: true

require_relative 'boot'

# A worker of this bench: ruby app/worker.rb [reading]. One carries out writes
# and trial starts, the other looks through shelves and checks images. A job
# that a killed worker left behind is taken again: writes go on from their journal.
queue = ARGV.first == 'reading' ? Config.reading : Config.bench
worker = Delayed::Worker.new(queues: [queue], quiet: true)
worker.name = "evrel #{queue}"
Delayed::Job.clear_locks!(worker.name)
worker.start
