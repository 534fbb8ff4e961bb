# frozen_string_literal: true

require 'openssl'
require 'etc'
require_relative 'real_systems/guest'
require_relative 'real_systems/breakages'

# Whole systems, installed as their own installers do it: built once by program
# from Debian's packages, kept in var/cache under a digest of their recipe, and
# judged by a plain start that knows nothing of what is tested.
module RealSystems
  HERE = File.expand_path('real_systems', __dir__)
  CACHE = File.expand_path('../../var/cache/real-systems', __dir__)
  PACKAGES = %w[systemd-sysv udev dbus login passwd kmod procps iproute2 initramfs-tools zstd linux-image-amd64 grub-pc-bin
                grub-efi-amd64-bin grub2-common systemd-boot lvm2 cryptsetup cryptsetup-initramfs btrfs-progs xfsprogs e2fsprogs
                dosfstools fdisk dmsetup busybox].freeze
  # An initial ramdisk with the checker of ext4, as it is made where the root is known. An emulated machine would take
  # half an hour for one: what is installed there gets one that was made here; see ramdisk in install.sh.
  RAMDISK = 'conf=$1/etc/initramfs-tools/conf.d/root; echo FSTYPE=ext4 >"$conf"; chroot "$1" update-initramfs -c -k all; rm "$conf"'
  # Name → how it is started, and what it asks for on the way. Those that need FAT or a device mapper are installed in a workshop.
  SYSTEMS = {
    bios_ext4: { firmware: :bios }, bios_ext4_quiet: { firmware: :bios, serial: false },
    uefi_xfs_home: { firmware: :uefi, workshop: true }, uefi_btrfs: { firmware: :uefi, workshop: true },
    bios_lvm: { firmware: :bios, workshop: true },
    uefi_luks: { firmware: :uefi, workshop: true, passphrase: 'low water 7', crypttab: 'part3_crypt UUID=%s none luks,discard,initramfs',
                 identity: '6d2c1f0e-5b7a-4c3d-9e8f-0a1b2c3d4e5f' },
    uefi_other_loader: { firmware: :uefi, workshop: true }, bios_usr_apart: { firmware: :bios }
  }.freeze
  PASSWORD = 'harbour-12'
  SIZE = 4 * (1024**3)
  # Beyond this a build that stands still is given up.
  PATIENCE = 3000

  module_function

  # @return [String, nil] why such systems cannot be built here
  def missing
    return 'systems are installed as root only' unless Process.uid.zero?

    lacking = %w[mmdebstrap losetup partx qemu-system-x86_64].reject { |tool| system('which', tool, %i[out err] => File::NULL) }
    lacking << 'loop devices' unless File.exist?('/dev/loop-control')
    "this machine lacks #{lacking.join(', ')}" if lacking.any?
  end

  # @param name [Symbol]
  # @return [String] path of its disk, which nobody changes
  def [](name)
    path = File.join(CACHE, "#{name}-#{digest(name)}.raw")
    make(name, path) unless File.exist?(path)
    path
  end

  # The same, after a start of it that found everything as it was installed.
  def judged(name)
    path = self[name]
    return path if File.exist?("#{path}.judged")

    File.write("#{path}.judged", Guest.judge(path, **SYSTEMS.fetch(name)))
    path
  end

  def make(name, path)
    FileUtils.mkdir_p(CACHE)
    made = "#{path}.making"
    FileUtils.rm_f(made)
    File.open(made, 'w') { |io| io.truncate(SIZE) }
    SYSTEMS.fetch(name)[:workshop] ? in_workshop(name, made) : on_this_machine(name, made)
    File.rename(made, path)
  end

  # Of all that a system is made from.
  def digest(name)
    scripts = %W[install workshop systems/#{name}].map { |file| File.read("#{HERE}/#{file}.sh") }
    short([contents, SIZE, *SYSTEMS.fetch(name).values_at(:crypttab, :identity), *scripts].join)
  end

  def contents = short([*PACKAGES, RAMDISK].join(' '))
  def short(text) = OpenSSL::Digest::SHA256.hexdigest(text)[0, 16]

  # An installed root, as an archive.
  def base
    path = File.join(CACHE, "base-#{contents}.tar")
    return path if File.exist?(path)

    FileUtils.mkdir_p(CACHE)
    # Each package that matters to it would make the initial ramdisk anew.
    run('env', 'INITRD=No', "TMPDIR=#{room}", 'mmdebstrap', '--quiet', '--variant=minbase', '--mode=root', '--format=tar',
        "--include=#{PACKAGES.join(',')}", release, "#{path}.making", input: sources)
    File.rename("#{path}.making", path)
    path
  end

  # For a root with all its files, for a while.
  def room = File.writable?('/dev/shm') ? '/dev/shm' : CACHE

  # Where this machine itself gets Debian's packages from.
  def sources
    said = run('apt-get', 'indextargets', '--format', '$(SITE) $(RELEASE) $(COMPONENT) $(ORIGIN) $(CREATED_BY)')
    said.lines.map(&:split).select { |_, name, _, origin, by| name.start_with?(release) && origin == 'Debian' && by == 'Packages' }
        .map { |site, name, component| "deb #{site} #{name} #{component}\n" }.uniq.join
  end

  def release = File.read('/etc/os-release')[/^VERSION_CODENAME=(\S+)/, 1]

  def on_this_machine(name, disk)
    unpacked do |folder|
      device = run('losetup', '--find', '--show', disk).strip
      run('sh', "#{HERE}/install.sh", name.to_s, device, folder)
    ensure
      system('partx', '-d', device, err: File::NULL)
      run('losetup', '-d', device)
    end
  end

  def unpacked
    Dir.mktmpdir('real-', room) do |folder|
      run('tar', '-C', folder, '-xpf', base)
      yield folder
    end
  end

  def in_workshop(name, disk)
    Dir.mktmpdir('recipe-', CACHE) do |folder|
      FileUtils.cp_r(["#{HERE}/install.sh", "#{HERE}/systems"], folder)
      File.write("#{folder}/system", name.to_s)
      encrypted(folder, **SYSTEMS.fetch(name).slice(:crypttab, :identity)) if SYSTEMS.fetch(name).key?(:crypttab)
      run('tar', '-C', folder, '-cf', "#{folder}.tar", '.')
      Guest.install(workshop, disk, "#{folder}.tar", patience: PATIENCE)
    ensure
      FileUtils.rm_f("#{folder}.tar")
    end
  end

  # What opens an encrypted disk of that identity, for the recipe.
  def encrypted(folder, crypttab:, identity:)
    File.write("#{folder}/identity", identity)
    File.write("#{folder}/crypttab", "#{format(crypttab, identity)}\n")
    unpacked do |base|
      FileUtils.cp("#{folder}/crypttab", "#{base}/etc/crypttab")
      run('sh', '-c', RAMDISK, 'sh', base)
      FileUtils.cp(Dir["#{base}/boot/initrd.img-*"].first, "#{folder}/ramdisk")
    end
  end

  # @return [Hash] kernel, initial ramdisk and root of the workshop
  def workshop
    folder = File.join(CACHE, "workshop-#{short(contents + File.read("#{HERE}/workshop.sh"))}")
    parts = { kernel: "#{folder}/kernel", initrd: "#{folder}/initrd", root: "#{folder}/root.raw" }
    return parts if Dir.exist?(folder)

    unpacked do |base|
      run('sh', '-c', RAMDISK, 'sh', base)
      FileUtils.mkdir_p("#{folder}.making")
      FileUtils.cp("#{HERE}/workshop.sh", "#{base}/usr/local/sbin/workshop", preserve: false)
      FileUtils.chmod(0o755, "#{base}/usr/local/sbin/workshop")
      FileUtils.cp(Dir["#{base}/boot/vmlinuz-*"].first, "#{folder}.making/kernel")
      FileUtils.cp(Dir["#{base}/boot/initrd.img-*"].first, "#{folder}.making/initrd")
      run('mke2fs', '-q', '-F', '-t', 'ext4', '-d', base, "#{folder}.making/root.raw", '2G')
      File.rename("#{folder}.making", folder)
    end
    parts
  end

  def run(*command, input: '')
    said, status = Evrel::Linux::Spawn.capture2e({ 'LC_ALL' => 'C' }, *command, stdin_data: input)
    raise "#{command.first(3).join(' ')} failed:\n#{said.lines.last(20).join}" unless status.success?

    said
  end
end
