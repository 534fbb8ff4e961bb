# frozen_string_literal: true

# What the checker of each kind of file system recovers from a volume.
module Recovered
  # A broken size may claim terabytes: no tool runs for more than a minute, or writes a file of more than 100 MB.
  LIMITS = ['prlimit', '--fsize=100000000', 'timeout', '60'].freeze

  # @param path [String] of the volume; it is not changed
  # @param kind [Symbol] :ext, :fat or :ntfs
  # @return [String] a folder with the files
  def recovered(path, kind, name)
    copy = file("#{name}.volume")
    folder = file(name)
    FileUtils.mkdir_p(folder)
    run('cp', '--sparse=always', path, copy)
    send(:"recover_#{kind}", copy, folder)
    FileUtils.rm_f(copy)
    folder
  end

  # Protection against two mounts makes the checker wait for 11 s: it is taken off before (-f: without that wait).
  def recover_ext(copy, folder)
    guarded = peek(copy, 1024 + 0x60, 4).unpack1('V').anybits?(0x100)
    Evrel::Linux::Spawn.capture2e(*LIMITS, 'tune2fs', '-f', '-O', '^mmp', copy) if guarded
    Evrel::Linux::Spawn.capture2e(*LIMITS, 'e2fsck', '-fy', copy)
    Evrel::Linux::Spawn.capture2e(*LIMITS, 'debugfs', '-R', "rdump / #{folder}", copy)
  end

  def recover_fat(copy, folder)
    Evrel::Linux::Spawn.capture2e(*LIMITS, 'fsck.vfat', '-a', '-w', copy)
    Evrel::Linux::Spawn.capture2e(*LIMITS, 'mcopy', '-s', '-n', '-m', '-i', copy, '::', folder)
  end

  def recover_ntfs(copy, folder)
    Evrel::Linux::Spawn.capture2e(*LIMITS, 'ntfsfix', '-d', copy)
    names, = Evrel::Linux::Spawn.capture2e(*LIMITS, 'ntfsls', '-f', copy)
    names.scrub('?').lines(chomp: true).grep(/\Afile-\d+\z/).each do |name|
      Evrel::Linux::Spawn.capture2e(*LIMITS, 'sh', '-c', 'ntfscat -f "$1" "$2" > "$3"', 'sh', copy, name, File.join(folder, name))
    end
  end
end
