# frozen_string_literal: true

require_relative 'boot'

# A worker of this bench: ruby app/worker.rb QUEUE…. "writing" is for writes,
# trial starts and whatever else writes to a drive; "reading" looks through
# shelves and checks images; "drives" counts and saves what is on drives, while
# somebody waits for it. A job that a killed worker left behind is taken again:
# writes go on from their journal.
names = { 'writing' => Config.bench, 'reading' => Config.reading, 'drives' => Config.drives }
queues = ARGV.map { |name| names.fetch(name) }
worker = Delayed::Worker.new(queues:, quiet: true)
worker.name = "evrel #{queues.join(' ')}"
Delayed::Job.clear_locks!(worker.name)
worker.start
