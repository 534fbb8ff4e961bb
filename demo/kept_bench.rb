# frozen_string_literal: true

require 'openssl'
require 'fileutils'
require 'json'

module Demo
  # The bench as it was built, kept between fresh starts and shared by all who
  # need one: building takes minutes, copying seconds. It is built anew when
  # what it is made by changes, and when its story has become old.
  class KeptBench
    FOLDER = File.join(Config::ROOT, 'var', 'cache', 'demo')
    MADE_BY = %w[demo/*_disk.rb demo/office_files.rb demo/bench_drives.rb demo/fleet.rb demo/image_making.rb demo/scenario.rb
                 stand_ins/**/*.rb lib/evrel/image/**/*.rb lib/evrel/volume/**/*.rb lib/evrel/table/*.rb].freeze

    # @param name [String] of this bench among those that are kept
    # @param holds [Integer] seconds for which its story may be told
    def initialize(name, holds:)
      @folder = File.join(FOLDER, name)
      @holds = holds
    end

    # Puts the bench in place; where none is kept the block builds it there, in one process at a time.
    # @param now [Time] when the story of one that is built is told
    # @return [Time] when the story of the one that is there is told
    def place(now)
      FileUtils.mkdir_p(@folder)
      File.open(File.join(@folder, 'lock'), 'w') do |io|
        io.flock(File::LOCK_EX)
        return fetch if there?

        yield
        keep(now)
      end
      now
    end

    private

    def there? = told && told['made_by'] == made_by && Time.now - Time.iso8601(told['now']) < @holds

    def fetch
      copy(File.join(@folder, 'bench'), Config.path('bench'))
      Time.iso8601(told['now'])
    end

    def keep(now)
      copy(Config.path('bench'), File.join(@folder, 'bench'))
      File.write(File.join(@folder, 'told.json'), JSON.generate(now: now.iso8601, made_by:))
    end

    def copy(from, to)
      FileUtils.rm_rf(to)
      FileUtils.mkdir_p(File.dirname(to))
      Demo.run('cp', '-a', '--sparse=always', '--reflink=auto', from, to)
      FileUtils.chmod(0o700, to) # whoever built it may have let others in
    end

    def told
      JSON.parse(File.read(File.join(@folder, 'told.json')))
    rescue Errno::ENOENT, JSON::ParserError
      nil
    end

    def made_by
      sources = MADE_BY.flat_map { |pattern| Dir[File.join(Config::ROOT, pattern)] }.sort
      OpenSSL::Digest::SHA256.hexdigest(sources.map { |path| File.read(path) }.join)
    end
  end
end
