# frozen_string_literal: true

require 'etc'

module Setup
  # The user without rights as whom pages and workers run where bin/start is run
  # by root; the warden alone keeps its rights, and opens drives for them.
  class Account
    NAME = 'evrel'
    # What stays root's in a data folder: the database, its owner's password, the warden, and what only bin/start touches.
    KEPT = %w[database database-owner-password database-users.sql running.lock warden gems cache stamps test empty
              screenshots].freeze
    # The emulator's acceleration, and parts of a disk that are shown as files.
    DEVICES = %w[/dev/kvm /dev/fuse].freeze

    # @param var [String] the data folder
    # For root alone.
    # @return [Account, nil] made where it is missing; nil where there can be none: everything runs as root then
    def self.of_this_machine(var)
      account = new
      account if account.reaches?(var)
    rescue Problem
      nil # it cannot be made here
    end

    def initialize
      Setup.run('useradd', '--system', '--user-group', '--no-create-home', '--shell', '/usr/sbin/nologin', NAME) unless entry
    end

    def uid = entry.uid
    def gid = entry.gid

    # What root did there belongs to it again.
    # @param var [String] the data folder
    def self.give_back(var)
      new.take(var) if Process.uid.zero? && File.stat(var).mode.anybits?(0o1000)
    end

    # @return [Boolean] whether it gets at the data folder, and can read the program and what was built of it
    def reaches?(var)
      built = [*Dir[File.join(ROOT, 'public', '*.html')], *Dir[File.join(PaperFonts::FOLDER, '*.ttf')]]
      said = "require 'evrel'; File.stat(ARGV.shift); ARGV.each { |path| File.open(path, &:close) }"
      system(*words, 'bundle', 'exec', RbConfig.ruby, '-I', 'lib', '-e', said, var, *built, chdir: ROOT, out: File::NULL, err: File::NULL)
    end

    # @return [Array<String>] what a command is put behind
    def words
      ['setpriv', "--reuid=#{uid}", "--regid=#{gid}", *(groups.any? ? "--groups=#{groups.join(',')}" : '--clear-groups'), '--inh-caps=-all']
    end

    # Others get into the folder, and read nothing that they are not given.
    # @param var [String] the data folder
    def take(var)
      File.chown(0, gid, var)
      File.chmod(0o1771, var)
      mine = Dir.children(var).reject { |name| KEPT.include?(name) || name.end_with?('.log') }.map { |name| File.join(var, name) }
      Setup.run('chown', '-R', '-h', "#{uid}:#{gid}", *mine) if mine.any?
      # These stand for devices, which it may read.
      drives = Dir.glob(File.join(var, 'bench', 'drives', '*', 'disk.raw')).select { |path| File.lstat(path).file? }
      File.chown(0, gid, *drives)
      File.chmod(0o640, *drives)
    end

    # What a system gives to everybody, or to a group, is given to nobody but root on some.
    def give_devices
      DEVICES.select { |path| File.exist?(path) && root_alone?(File.stat(path)) }.each do |path|
        File.chown(nil, gid, path)
        File.chmod((File.stat(path).mode & 0o777) | 0o060, path)
      end
    end

    private

    def entry
      Etc.getpwnam(NAME)
    rescue ArgumentError
      nil
    end

    def root_alone?(stat) = stat.mode.nobits?(0o006) && (stat.gid.zero? || stat.mode.nobits?(0o060))

    # Those to whom the system gives these devices.
    def groups
      DEVICES.select { |path| File.exist?(path) }.map { |path| File.stat(path) }
             .filter_map { |stat| stat.gid if stat.mode.nobits?(0o006) && stat.mode.anybits?(0o060) && !stat.gid.zero? } - [gid]
    end
  end
end
