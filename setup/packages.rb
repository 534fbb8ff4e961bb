# frozen_string_literal: true

module Setup
  # Debian's packages, from debian-packages.txt.
  module Packages
    LIST = File.join(__dir__, 'debian-packages.txt')

    module_function

    def install
      missing = wanted - installed
      return :nothing if missing.empty?

      apt('update', '-qq')
      apt('install', '-y', '-qq', '--no-install-recommends', *missing)
    end

    # @raise [Problem] where there is no right to install
    def apt(*arguments)
      Setup.run(*root, 'apt-get', *arguments, env: { 'DEBIAN_FRONTEND' => 'noninteractive' })
    end

    def wanted = File.readlines(LIST, chomp: true).reject { |line| line.empty? || line.start_with?('#') }

    def installed
      output, = Open3.capture2('dpkg-query', '-W', '-f', "${Package} ${Status}\n")
      output.lines(chomp: true).filter_map { |line| line.split.first if line.end_with?(' installed') }
    end

    def root
      return [] if Process.uid.zero?
      return %w[sudo -n] if system('sudo -n true', out: File::NULL, err: File::NULL)

      missing = wanted - installed
      raise Problem, "There is no right to install packages#{" (#{missing.join(', ')})" if missing.any?}: " \
                     'run this once as root, or have them installed.'
    end
  end
end
