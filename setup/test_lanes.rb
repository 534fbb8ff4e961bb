# frozen_string_literal: true

require 'json'

module Setup
  # The tests, in lanes beside each other, each of which takes the next when
  # it is through with one, the longest first: all end at about the same time.
  class TestLanes
    CHECKS = { 'RuboCop' => %w[bundle exec rubocop], 'ESLint' => %w[npm run --silent lint], 'Prettier' => %w[npm run --silent format:check],
               'Types' => %w[npm run --silent types], 'Types of the API' => %w[npm run --silent api:check],
               'Units of the pages' => %w[npm run --silent test] }.freeze
    # Seconds of each spec on two cores: a first run shares them out as well as a later one.
    USUAL = File.join(ROOT, 'spec', 'durations.json')
    # One more than there are cores: the specs of the pages wait for much.
    LANES = 3
    # Seconds of specs that share a process: each takes one to begin.
    BATCH = 40
    UNKNOWN = 5.0
    SLOWEST = 20
    # What RSpec writes above failed examples, and lines of what says it in another way.
    FAILURES = 'Failures:'
    LAST_LINES = 30

    # What a lane takes at once: specs, or a check.
    Job = Struct.new(:name, :seconds, :paths, :command, :env, keyword_init: true)

    # @param folder [String] for logs, and what is remembered of durations
    # @param houses [Array<Hash>] environments, each with a database of its own
    def initialize(folder, houses)
      @folder = folder
      @houses = houses
      @print = Mutex.new
      @count = Mutex.new
      FileUtils.rm_f(Dir[File.join(folder, 'results-*.json')])
      @runs = 0
      @failed = []
    end

    # @param specs [Array<String>] only those; all where none is named
    # @return [Boolean] whether everything was fine
    def run(specs)
      before = Setup.now
      return system('bundle', 'exec', 'rspec', *specs, chdir: ROOT) unless specs.empty?

      fine = everything
      slowest
      failures
      puts format('%<how>s in %<minutes>.1f minutes', how: fine ? 'Everything is fine' : 'Something FAILED',
                                                      minutes: (Setup.now - before) / 60)
      fine
    end

    private

    def everything
      waiting = Thread::Queue.new
      jobs.sort_by { |job| -job.seconds }.each { |job| waiting << job }
      waiting.close
      outcomes = Array.new(LANES) { Thread.new { take(waiting) } }.flat_map(&:value)
      remember
      outcomes.all?
    end

    def take(waiting)
      outcomes = []
      while (job = waiting.pop)
        outcomes << (job.paths ? specs(job) : told(job.name, job.command))
      end
      outcomes
    end

    # @return [Array<Job>]
    def jobs
      with_database + batches(found('spec/{core,security}')) + [of_specs('bin/start', found('spec'))] +
        CHECKS.map { |name, command| Job.new(name:, command:, seconds: durations.fetch(name, UNKNOWN)) }
    end

    # Specs that share a database share a process.
    def with_database
      halves = @houses.each_slice(@houses.size / 2).to_a
      { 'application' => 'spec/{app,security/app}', 'pages' => 'spec/browser' }.zip(halves).flat_map do |(name, folder), houses|
        shared_out(found(folder), houses.size).zip(houses).map { |paths, env| of_specs(name, paths, env:) }
      end
    end

    # As many lists as that, which take about the same time.
    def shared_out(paths, count)
      paths.sort_by { |path| -seconds(path) }.each_with_object(Array.new(count) { [] }) do |path, lists|
        lists.min_by { |list| list.sum { |one| seconds(one) } } << path
      end
    end

    def found(folder) = Dir.chdir(ROOT) { Dir["#{folder}/*_spec.rb"] }

    def of_specs(name, paths, env: {}) = Job.new(name:, paths:, env:, seconds: paths.sum { |path| seconds(path) })

    # Short ones together.
    def batches(paths)
      long, short = paths.sort_by { |path| -seconds(path) }.partition { |path| seconds(path) > BATCH / 2 }
      together = short.each_with_object([[]]) do |path, all|
        all << [] if all.last.sum { |one| seconds(one) } + seconds(path) > BATCH
        all.last << path
      end
      (long.map { |path| [path] } + together.reject(&:empty?)).map do |batch|
        of_specs("core, #{batch.map { |path| File.basename(path, '_spec.rb') }.join(' ')}", batch)
      end
    end

    def seconds(path) = durations.fetch(path, UNKNOWN)

    # As they were measured here, or else as they came with the specs.
    def durations = @durations ||= [USUAL, durations_file].map { |file| read(file) }.reduce(:merge)

    # @return [Hash] nothing, too, of a process that ended before it could say
    def read(file)
      JSON.parse(File.read(file))
    rescue Errno::ENOENT, JSON::ParserError
      {}
    end

    def durations_file = File.join(@folder, 'durations.json')

    def specs(job)
      result = File.join(@folder, "results-#{@count.synchronize { @runs += 1 }}.json")
      told("RSpec: #{job.name}", ['bundle', 'exec', 'rspec', *job.paths, '--format', 'json', '--out', result,
                                  '--format', 'documentation'], env: job.env)
    end

    # @return [Boolean] whether the command was fine; what it said is printed at once when it has ended
    def told(name, command, env: {})
      before = Setup.now
      said, status = Open3.capture2e(env, *command, chdir: ROOT)
      @print.synchronize do
        puts "\n== #{name}", said
        puts format('== %<name>s %<how>s, %<seconds>.1f s', name:, how: status.success? ? 'fine' : 'FAILED', seconds: Setup.now - before)
        @failed << [name, said] unless status.success?
      end
      status.success?
    end

    def examples
      @examples ||= Dir[File.join(@folder, 'results-*.json')].flat_map { |path| read(path).fetch('examples', []) }
    end

    def remember
      # The id names the spec that is run; the file may be that of a contract.
      taken = examples.group_by { |one| one['id'][%r{\A\./(.*)\[}, 1] }.transform_values { |all| all.sum { |one| one['run_time'] } }
      File.write(durations_file, JSON.generate(durations.merge(taken)))
    end

    # Again at the end, where whoever reads a long log looks first: examples with
    # their messages; what another check, or a process that broke off, said last.
    def failures
      @failed.each do |name, said|
        puts "\nFAILED: #{name}", said.include?(FAILURES) ? said[/^#{FAILURES}.*/mo] : said.lines.last(LAST_LINES)
      end
    end

    def slowest
      puts "\nThe #{SLOWEST} slowest:"
      examples.max_by(SLOWEST) { |one| one['run_time'] }.each do |one|
        puts format('%<seconds>7.1f s  %<what>s', seconds: one['run_time'], what: one['full_description'])
      end
    end
  end
end
