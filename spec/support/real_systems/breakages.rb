# frozen_string_literal: true

require_relative 'spoiler'

module RealSystems
  # What is done to a system, and what has to be said of it: the steps of the chain that may tell it, and the mend.
  # Where it lies in what Evrel does not read, the chain asks; where it does no harm, nothing is told.
  Breakage = Struct.new(:what, :told, :mend, :file, :spoil, keyword_init: true) do
    def harmless? = told.nil?
    def told?(spoiler) = file.nil? || spoiler.read?(file)
  end

  # The breakages of each system.
  module Breakages
    LIBRARIES = '/usr/lib/x86_64-linux-gnu'
    LOADER = '/boot/efi/EFI/BOOT/BOOTX64.EFI'
    GONE = 'UUID=01234567-89ab-4cde-8f01-23456789abcd /data xfs defaults 0 2'

    def self.of(what, told, mend, file = nil, &spoil) = Breakage.new(what:, told:, mend:, file:, spoil:)

    BIOS = [
      of('the code in the first sector is gone', %w[boot-code], %w[boot-code]) { |one| one.overwrite_disk("\0" * 440, 0) },
      of('the core is overwritten', %w[core], %w[core], &:overwrite_core)
    ].freeze
    MARK = of('no partition is marked as one to start from', nil, nil) { |one| one.overwrite_disk("\0", 446) }
    UEFI = [
      of('the loader is missing', %w[loader], %w[file fallback]) { |one| one.remove(LOADER) },
      of('the loader is overwritten', %w[loader], %w[file]) { |one| one.overwrite(LOADER, 0, 4) }
    ].freeze
    IDENTITY = { '/' => 'the root has another identity', '/boot' => '/boot has another identity' }.to_h do |folder, what|
      [folder, of(what, %w[prefix entry root mounts], %w[references old-identity], folder) { |one| one.new_identity(folder) }]
    end.freeze
    FILES = [
      of('the kernel is missing', %w[kernel], %w[file], '/boot') { |one| one.remove(one.kernel) },
      of('the initial ramdisk is missing', %w[ramdisk], %w[file], '/boot') { |one| one.remove(one.ramdisk) },
      of('the initial ramdisk is damaged', %w[ramdisk], %w[file], '/boot') { |one| one.overwrite(one.ramdisk, 9000, 40) },
      of('what the loader is told is missing', %w[configuration entry], %w[file], '/boot') { |one| one.remove(one.configuration) },
      of('the init is missing', %w[init], %w[file], '/usr') { |one| one.remove('/usr/lib/systemd/systemd') },
      of('the links to the init are missing', %w[init], %w[file], '/usr') { |one| one.remove('/usr/sbin/init', '/sbin') },
      of('a library of the init is missing', %w[init], %w[file], '/usr') { |one| one.remove("#{LIBRARIES}/libc.so.6") },
      of('what loads programs is missing', %w[init], %w[file], '/usr') { |one| one.remove("#{LIBRARIES}/ld-linux-x86-64.so.2") },
      of('a disk that fstab lists is gone', %w[mounts], %w[mount-line], '/etc') { |one| one.append('/etc/fstab', GONE) }
    ].freeze

    # @param name [Symbol] of the system
    # @return [Array<Breakage>]
    def self.all(name)
      first = name.start_with?('bios') ? BIOS : UEFI
      identities = IDENTITY.values_at(*Spoiler::PLACES.fetch(name).keys).compact
      [*first, *identities, *FILES, *([MARK] if name.start_with?('bios') && name != :bios_usr_apart)]
    end
  end
end
