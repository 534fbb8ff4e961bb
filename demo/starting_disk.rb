# frozen_string_literal: true

require 'fileutils'
require 'tmpdir'

# Builds the demo: made-up disks, files and records.
module Demo
  # Builds a disk that really starts: GPT, a start-up part with a loader and a
  # kernel, a system part with a small user land, and a recovery part behind it.
  class StartingDisk
    MIB = 1024**2
    ESP_MIB = 512
    RECOVERY_MIB = 1024
    # @param path [String] the disk's file, already of its size
    # @param host [String] host name
    # @param title [String] of the loader's entry
    # @param start_files [String] folder with vmlinuz and systemd-bootx64.efi
    # @param ids [Hash] disk, esp, system, recovery (GUIDs), system_uuid, recovery_uuid
    # @param files [Hash{String=>Array(String, Time)}] path → contents and time
    # @param at [Time] when it was last written to
    # @param started [Boolean] whether its system says that it was last started then
    def initialize(path, host:, title:, start_files:, ids:, files: {}, at: Time.now, started: false)
      @path = path
      @host = host
      @title = title
      @start_files = start_files
      @ids = ids
      @files = files
      @at = at
      @started = started
    end

    def build
      Dir.mktmpdir('evrel-demo') do |work|
        @work = work
        partition
        write_startup
        write_system
        write_recovery
      end
    end

    private

    def size = File.size(@path)
    def esp_start = MIB
    def system_start = (1 + ESP_MIB) * MIB
    def system_size = recovery_start - system_start
    # One MiB at the end is left for the backup table.
    def recovery_start = ((size / MIB) - 1 - RECOVERY_MIB) * MIB

    def partition
      run('sfdisk', '-q', @path, input: <<~SCRIPT)
        label: gpt
        label-id: #{@ids[:disk]}
        start=#{esp_start / 512}, size=#{ESP_MIB * MIB / 512}, type=U, uuid=#{@ids[:esp]}, name="Start-up"
        start=#{system_start / 512}, size=#{system_size / 512}, type=4F68BCE3-E8CD-4DB1-96E7-FBCAF984B709, uuid=#{@ids[:system]}, name="System"
        start=#{recovery_start / 512}, size=#{RECOVERY_MIB * MIB / 512}, type=DE94BBA4-06D1-4D40-A16A-BFD50179D6AC, uuid=#{@ids[:recovery]}, name="Recovery"
      SCRIPT
    end

    # In place: a copy of a volume would be read whole, and most of it is empty. Clusters of 4 KiB, or their size would go by
    # the disk's.
    def write_startup
      run('mkfs.vfat', '--offset', (esp_start / 512).to_s, '-F', '32', '-s', '8', '-n', 'STARTUP', '-i', @ids[:esp].delete('-')[0, 8],
          @path, (ESP_MIB * 1024).to_s)
      run('mmd', '-i', startup, '::EFI', '::EFI/BOOT', '::loader', '::loader/entries')
      run('mcopy', '-i', startup, "#{@start_files}/systemd-bootx64.efi", '::EFI/BOOT/BOOTX64.EFI')
      run('mcopy', '-i', startup, "#{@start_files}/vmlinuz", '::vmlinuz')
      text('loader/loader.conf', "timeout 0\ndefault office\n")
      text('loader/entries/office.conf', <<~CONF)
        title #{@title}
        linux /vmlinuz
        options root=PARTUUID=#{@ids[:system]} rw console=ttyS0 console=tty0
      CONF
    end

    # As mtools name a volume within a disk.
    def startup = "#{@path}@@#{esp_start}"

    def text(name, content)
      file = "#{@work}/text"
      File.write(file, content)
      run('mcopy', '-i', startup, file, "::#{name}")
    end

    def write_system
      root = "#{@work}/root"
      Demo.small_system(root, host: @host, fstab: <<~FSTAB)
        UUID=#{@ids[:system_uuid]} / ext4 defaults 0 1
        PARTUUID=#{@ids[:esp]} /boot vfat noauto 0 2
        LABEL=Recovery /var/recovery ext4 noauto 0 2
      FSTAB
      Demo.lists_of_modules(root, @start_files)
      Demo.write_files(root, @files)
      make_ext4(root, system_start, system_size, 'System', @ids[:system_uuid])
      note_start if @started
    end

    # As if the computer had last been started then, and nothing was written since.
    def note_start
      time = @at.utc.strftime('%Y%m%d%H%M%S')
      run('debugfs', '-w', '-f', '/dev/stdin', "#{@path}?offset=#{system_start}",
          input: "set_current_time #{time}\nset_super_value mtime #{time}\n")
    end

    def write_recovery
      root = "#{@work}/recovery"
      FileUtils.mkdir_p(root)
      File.write("#{root}/READ-ME.txt", "Recovery part of #{@host}\n")
      make_ext4(root, recovery_start, RECOVERY_MIB * MIB, 'Recovery', @ids[:recovery_uuid])
    end

    def make_ext4(root, start, bytes, label, uuid) = Demo.make_ext4(@path, root, start:, bytes:, label:, uuid:, at: @at)
    def run(*command, input: nil) = Demo.run(*command, input:)
  end

  # Programs of the user land; one binary serves them all.
  APPLETS = %w[sh init getty login mount umount hostname cat ls date ps reboot poweroff sleep vi grep].freeze

  module_function

  # A user land that boots to a log-in prompt, on the serial line and the screen.
  def small_system(root, host:, fstab:)
    %w[bin sbin etc dev proc sys tmp var/log boot home].each { |name| FileUtils.mkdir_p("#{root}/#{name}") }
    FileUtils.cp('/bin/busybox', "#{root}/bin/busybox")
    APPLETS.each { |name| File.symlink('busybox', "#{root}/bin/#{name}") }
    File.symlink('../bin/busybox', "#{root}/sbin/init")
    { 'hostname' => "#{host}\n", 'issue' => "Terminal #{host}\n\n", 'fstab' => fstab, 'passwd' => "root::0:0:root:/home:/bin/sh\n",
      'inittab' => <<~INITTAB, 'rc' => <<~RC }.each { |name, content| File.write("#{root}/etc/#{name}", content) }
        ::sysinit:/etc/rc
        ttyS0::respawn:/bin/getty -L 115200 ttyS0 vt100
        tty1::respawn:/bin/getty 38400 tty1
        ::ctrlaltdel:/bin/reboot
      INITTAB
        #!/bin/sh
        mount -t devtmpfs dev /dev
        mount -t proc proc /proc
        mount -t sysfs sysfs /sys
        hostname -F /etc/hostname
      RC
    File.chmod(0o755, "#{root}/etc/rc")
  end

  # What the kernel says of its drivers: those that are built in, and those that would be modules.
  def lists_of_modules(root, start_files)
    version = Dir.children("#{start_files}/modules").first
    folder = "#{root}/lib/modules/#{version}"
    FileUtils.mkdir_p(folder)
    %w[modules.builtin modules.builtin.modinfo modules.alias].each do |name|
      FileUtils.cp("#{start_files}/modules/#{version}/#{name}", folder)
    end
    File.write("#{folder}/modules.dep", '')
  end

  # An ext4 filled from a folder, in place in a disk's file. Few inodes and a
  # small journal: a stand-in drive is large, what is on it is not.
  # @param at [Time] when it says that it was made and last written
  def make_ext4(disk, root, start:, bytes:, label:, uuid: nil, at: Time.now)
    run('mke2fs', '-q', '-F', '-t', 'ext4', '-m', '0', '-T', 'largefile', '-N', [20_000, bytes / (16 * (1024**2))].max.to_s,
        '-J', 'size=16', '-L', label, *(['-U', uuid] if uuid),
        '-E', "offset=#{start},lazy_itable_init=1,lazy_journal_init=1,nodiscard", '-d', root, disk, "#{bytes / 1024}k",
        env: { 'E2FSPROGS_FAKE_TIME' => at.to_i.to_s })
  end

  # @param files [Hash{String=>Array(String, Time)}] relative path → contents and time
  def write_files(root, files)
    files.each do |name, (content, time)|
      path = File.join(root, name)
      FileUtils.mkdir_p(File.dirname(path))
      File.binwrite(path, content)
      File.utime(time, time, path)
    end
    date_folders(root, files)
  end

  # A folder is as old as what came into it last.
  def date_folders(root, files)
    newest = Hash.new(Time.at(0))
    files.each do |name, (_, time)|
      folder = name
      newest[folder] = [newest[folder], time].max while (folder = File.dirname(folder)) != '.'
    end
    newest.each { |folder, time| File.utime(time, time, File.join(root, folder)) }
  end

  # @raise [RuntimeError] with what the tool said
  def run(*command, input: nil, env: {})
    output, status = Evrel::Linux::Spawn.capture2e(env, *command, stdin_data: input.to_s)
    raise "#{command.first} failed: #{output.strip}" unless status.success?
  end
end
