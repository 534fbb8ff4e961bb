# frozen_string_literal: true

module RealSystems
  # Breaks things in a copy of a system: files by the tools of their volume, or,
  # where no tool of this machine gets at them (logical, encrypted volumes,
  # Btrfs), by the system itself, which is started for that.
  class Spoiler
    # Name → folder of the system → the part whose root it is. What lies in none of them, only the system itself gets at.
    PLACES = {
      bios_ext4: { '/' => 1 }, bios_ext4_quiet: { '/' => 1 }, bios_usr_apart: { '/' => 3, '/boot' => 2, '/usr' => 4 },
      bios_lvm: { '/boot' => 1 }, uefi_xfs_home: { '/' => 2, '/boot/efi' => 1 }, uefi_btrfs: { '/boot/efi' => 1 },
      uefi_luks: { '/boot' => 2, '/boot/efi' => 1 }, uefi_other_loader: { '/' => 2, '/boot/efi' => 1 }
    }.freeze
    # In the background, and loaded before anything is gone: the kernel's own way to write all, below, passes over Btrfs (sync is
    # system call 162 there).
    SYNC = "perl -e 'sleep 9; syscall 162' & read -t 4 x"
    # All is written, the volumes rest, and the machine goes off: by the kernel alone, whatever is gone (proc-sys-kernel, sysrq).
    REST = %w[s u o].map { |key| "echo #{key} >/proc/sysrq-trigger; read -t 3 x" }.join('; ')

    # @param name [Symbol] of the system
    # @param path [String] of the copy
    def initialize(name, path)
      @name = name
      @path = path
    end

    # @return [Boolean] whether the file lies where Evrel reads
    def read?(name) = !place(name).nil?

    def remove(*names)
      beyond = names.reject do |name|
        changed(name) { |part, fat, there| fat ? tool('mdel', '-i', part, "::#{there}") : debugfs(part, "rm #{there}") }
      end
      by_itself("rm #{beyond.join(' ')}") if beyond.any? # at once: it may not start again
    end

    def append(name, line) = rewritten(name) { |bytes| "#{bytes}#{line}\n" } || by_itself("echo '#{line}' >>#{name}")

    # @param from [Integer] kilobytes
    # @param count [Integer] kilobytes
    def overwrite(name, from, count)
      rewritten(name) { |bytes| bytes.tap { bytes[from * 1024, count * 1024] = 'x' * (count * 1024) } } ||
        by_itself("dd if=/dev/urandom bs=1k seek=#{from} count=#{count} conv=notrunc 1<>#{name}")
    end

    # On the disk itself.
    # @param at [Integer] bytes
    def overwrite_disk(bytes, at) = File.binwrite(@path, bytes, at)

    # What lies at one megabyte is the core where the disk has a GPT, else it follows the first sector.
    def overwrite_core
      gpt = Evrel::Disk::File.open(@path) { |disk| Evrel::Table.read(disk).kind == 'gpt' }
      overwrite_disk('x' * 4000, gpt ? 1024**2 : 512)
    end

    # The ext volume that holds a folder gets another identity.
    def new_identity(folder)
      part(place(folder).first) do |file|
        system('e2fsck', '-fy', file, out: File::NULL) # the tool asks for it
        tool('tune2fs', '-U', 'random', file)
      end
    end

    def kernel = @name == :uefi_other_loader ? installed('linux') : first('/boot', 'vmlinuz')
    def ramdisk = @name == :uefi_other_loader ? installed('initrd') : first('/boot', 'initrd')
    def configuration = @name == :uefi_other_loader ? first('/boot/efi/loader/entries', '') : '/boot/grub/grub.cfg'

    # Yields a part of the disk as a file; what is written there goes to the disk.
    def part(number, &block)
      parted = numbered(number)
      Dir.mktmpdir do |folder|
        layer = Evrel::Disk::Layer.new(folder, File.expand_path(@path), cluster: 65_536)
        layer.as_file(parted.start, parted.size, &block).tap do
          Evrel::Disk::File.open(@path, writable: true) { |disk| layer.runs.each { |one| disk.write(one.start, layer.read(one)) } }
        end
      end
    end

    private

    # @param start [String] how the file's name begins
    # @return [String] as the system names it; by a pattern where only the system gets there
    def first(folder, start)
      number, there = place(folder)
      return "#{folder}/#{start}*" unless number

      "#{folder}/#{volume(number) { |one| one.entries(there).map(&:name).find { |name| name.start_with?(start) } }}"
    end

    # Where kernel-install puts it: a folder of the installation, and in that one of the version.
    def installed(start)
      folders = volume(place('/boot/efi').first) { |one| one.entries('/').select(&:directory?).map(&:name) } - %w[EFI loader]
      first(first("/boot/efi/#{folders.first}", ''), start)
    end

    # The deepest folder that is named holds it.
    # @return [(Integer, String), nil] the part, and the path there
    def place(name)
      places = PLACES.fetch(@name)
      folder = places.keys.select { |one| "#{name}/".start_with?("#{one.chomp('/')}/") }.max_by(&:length) or return
      [places.fetch(folder), "/#{name.delete_prefix(folder).delete_prefix('/')}"]
    end

    def numbered(number) = Evrel::Disk::File.open(@path) { |disk| Evrel::Table.read(disk).partitions.find { |one| one.number == number } }

    def volume(number) = Evrel::Disk::File.open(@path) { |disk| yield Evrel::Volume.recognise(numbered(number).window(disk)) }

    # @return [Boolean] false where no tool of this machine gets at it
    def changed(name)
      number, there = place(name)
      return false unless number

      fat = volume(number) { |one| one.kind.start_with?('fat') }
      part(number) { |file| yield file, fat, there }
      true
    end

    def rewritten(name)
      changed(name) do |part, fat, there|
        Dir.mktmpdir do |folder|
          kept = "#{folder}/kept"
          fat ? tool('mcopy', '-i', part, "::#{there}", kept) : tool('debugfs', '-R', "dump #{there} #{kept}", part)
          File.binwrite(kept, yield(File.binread(kept)))
          fat ? tool('mcopy', '-o', '-i', part, kept, "::#{there}") : debugfs(part, "rm #{there}", "write #{kept} #{there}")
        end
      end
    end

    def debugfs(part, *commands) = tool('debugfs', '-w', '-f', '/dev/stdin', part, input: "#{commands.join("\n")}\n")

    def by_itself(command) = Guest.order(@path, "#{SYNC}; #{command}; wait; #{REST}", **SYSTEMS.fetch(@name))

    def tool(...) = RealSystems.run(...)
  end
end
