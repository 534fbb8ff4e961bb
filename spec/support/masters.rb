# frozen_string_literal: true

require 'openssl'
require 'fileutils'

# Disks and images that take their time to make are made once, kept in
# var/cache/masters under a digest of all that makes them, and shared by every
# process and every run.
module Masters
  ROOT = File.expand_path('../..', __dir__)
  FOLDER = File.join(ROOT, 'var', 'cache', 'masters')
  # What they are made by, beside the file in which a master is described.
  MAKERS = %w[spec/support/**/* demo/*_disk.rb demo/office_files.rb lib/evrel/{codec,disk,image,table,volume,parallel}/**/*
              setup/debian-packages.txt setup/start_files.rb].freeze
  UNUSED = 2 * 86_400 # seconds after which one that nobody asked for goes

  class << self
    # @param name [String]
    # @param by [String] path of the file that describes it
    # @yieldparam path [String] where it is made: a file or a folder
    # @return [String] path of the master, which nobody changes
    def of(name, by: __FILE__, &block)
      FileUtils.mkdir_p(FOLDER)
      digest = OpenSSL::Digest::SHA256.hexdigest([name, makers, File.read(by)].join)[0, 16]
      path = File.join(FOLDER, "#{name.gsub(/[^\w.-]+/, '-')[0, 60]}-#{digest}")
      return used(path) if File.exist?(path)

      exclusively(path) { make(path, &block) unless File.exist?(path) }
      path
    end

    private

    def makers
      @makers ||= OpenSSL::Digest::SHA256.hexdigest(MAKERS.flat_map { |one| Dir[File.join(ROOT, one)] }.sort.select { |path| File.file?(path) }
                                                            .map { |path| File.read(path) }.join)
    end

    def used(path)
      FileUtils.touch(path)
      path
    end

    # Another process may be about to make the same.
    def exclusively(path)
      File.open("#{path}.lock", 'w') do |io|
        io.flock(File::LOCK_EX)
        yield
      end
      File.delete("#{path}.lock")
    rescue Errno::ENOENT
      nil # whoever had it before has removed it
    end

    def make(path)
      clear
      FileUtils.rm_rf("#{path}.making")
      yield "#{path}.making"
      File.rename("#{path}.making", path)
    end

    def clear
      Dir[File.join(FOLDER, '*')].each { |one| FileUtils.rm_rf(one) if File.mtime(one) < Time.now - UNUSED }
    end
  end
end
