# frozen_string_literal: true

module Setup
  # The gems of Gemfile.lock, into var/gems.
  module Gems
    # Stands for the gem source in Gemfile and Gemfile.lock; see there.
    PLACE_HOLDER = 'https://gems.invalid'

    module_function

    # @param tests [Boolean] with what only tests, linters and pictures need; once that is there, it is kept up too
    def install(tests: false)
      tests ||= Setup.stamped?('gems-with-tests')
      Setup.when_changed(tests ? 'gems-with-tests' : 'gems', %w[Gemfile Gemfile.lock].map { |name| File.join(ROOT, name) }) do
        config("mirror.#{PLACE_HOLDER}", Gem.sources.first.then { |source| source.respond_to?(:uri) ? source.uri.to_s : source.to_s })
        config('path', 'var/gems')
        # Debian's own library for HTML: compiling the one that comes with the gem takes minutes.
        config('build.nokogiri', '--use-system-libraries')
        config('frozen', 'true')
        tests ? Setup.run('bundle', 'config', 'unset', '--local', 'without') : config('without', 'test')
        Setup.run('bundle', 'install', '--jobs', '2', '--quiet', hint: 'is the gem registry reachable?')
      end
    end

    def config(name, value) = Setup.run('bundle', 'config', 'set', '--local', name, value)
  end
end
