# frozen_string_literal: true

require_relative 'boot'

# A worker of this bench: ruby app/worker.rb QUEUE… [NUMBER]. "writing" is for
# writes, trial starts and whatever else writes to a drive, writes first; there
# may be several such workers, by number. "reading" looks through shelves and
# checks images; "drives" counts and saves what is on drives, while somebody
# waits for it; "takings" takes images of drives, and there may be several too. A
# job that a killed worker left behind is taken again: writes go on from their
# journal, takings from their files.
LOAD_ALL.call(api: false)
LOAD_TABLES.call
names = { 'writing' => Benches.names, 'reading' => Benches.names.map { |name| Config.reading(name) },
          'drives' => Benches.names.map { |name| Config.drives(name) }, 'takings' => Benches.names.map { |name| Config.takings(name) } }
number = ARGV.last.to_s[/\A\d+\z/] ? Integer(ARGV.pop) : 1
queues = ARGV.flat_map { |name| names.fetch(name) }
AttachedDrives.read_ahead if ARGV.include?('writing')
if ARGV.include?('reading') && number == 1
  Evrel::Linux::Leftovers.remove
  Proving.watch
  Bin.watch
  EventHeads.watch
end
BenchWatch.run(-> { RunWatch.follow_all }) if ARGV.include?('drives')
worker = Workplace.worker = Delayed::Worker.new(queues:, quiet: true)
# After it was made: that begins its life cycle anew, without whatever was to be called before.
ResumeAfterReplug.watch if ARGV.include?('writing') && number == 1
TakingResume.watch if ARGV.include?('takings') && number == 1
# Of this host only: clearing what such a worker had locked touches nobody else's.
worker.name = "evrel #{Socket.gethostname} #{[*ARGV, number].join(' ')}"
begin
  Delayed::Job.clear_locks!(worker.name)
  Owner.let_go
  TakeUp.watch
  worker.start
rescue ActiveRecord::ActiveRecordError, Delayed::FatalBackendError => e
  # What was being done is nobody's now, and is taken up when the database is there again.
  warn "#{worker.name}: #{e.message}"
  sleep 1
  retry unless worker.stop?
end
