# frozen_string_literal: true

require 'digest'
require 'fileutils'
require 'json'

module Demo
  # The bench as it was built, kept between fresh starts: building takes
  # minutes, copying seconds. It is built anew when what it is made by changes,
  # and when its story has become old.
  module KeptBench
    FOLDER = File.join(Config::ROOT, 'var', 'cache', 'demo')
    HOLDS = 7 * 86_400 # seconds
    MADE_BY = %w[demo/*_disk.rb demo/office_files.rb demo/bench_drives.rb demo/fleet.rb demo/image_making.rb demo/scenario.rb
                 stand_ins/**/*.rb lib/evrel/image/**/*.rb lib/evrel/volume/**/*.rb lib/evrel/table/*.rb].freeze

    module_function

    # @return [Boolean]
    def there?
      told && told['made_by'] == made_by && Time.now - Time.iso8601(told['now']) < HOLDS
    end

    # Puts the kept bench in place.
    # @return [Time] when the story is told
    def fetch
      copy(File.join(FOLDER, 'bench'), Config.path('bench'))
      Time.iso8601(told['now'])
    end

    # @param now [Time] when the story is told
    def keep(now)
      copy(Config.path('bench'), File.join(FOLDER, 'bench'))
      File.write(File.join(FOLDER, 'told.json'), JSON.generate(now: now.iso8601, made_by:))
    end

    def copy(from, to)
      FileUtils.rm_rf(to)
      FileUtils.mkdir_p(File.dirname(to))
      Demo.run('cp', '-a', '--sparse=always', '--reflink=auto', from, to)
    end

    def told
      JSON.parse(File.read(File.join(FOLDER, 'told.json')))
    rescue Errno::ENOENT, JSON::ParserError
      nil
    end

    def made_by
      sources = MADE_BY.flat_map { |pattern| Dir[File.join(Config::ROOT, pattern)] }.sort
      Digest::SHA256.hexdigest(sources.map { |path| File.read(path) }.join)
    end
    private_class_method :copy, :told, :made_by
  end
end
