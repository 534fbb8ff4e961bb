# frozen_string_literal: true

require_relative 'disks'
require_relative 'initrd_disks'
require_relative 'store_disks'

# Disks that are each broken in one way, with what the chain has to say of it.
module BrokenDisks
  # id; base: a key of BASES; spoil: what is done to the disk's file; computer and attached: what the chain is told; step and
  # state: the first step that is not ok; says: its words; mend: the id of what mends it, or nil; starts: whether the
  # emulator starts it as it is, nil where it cannot be asked; with: how the emulator's computer differs.
  Case = Struct.new(:id, :base, :spoil, :computer, :attached, :step, :state, :says, :mend, :starts, :with, keyword_init: true)

  BASES = { uefi: ->(spec) { spec.initrd_disk(:uefi) }, bios: ->(spec) { spec.initrd_disk(:bios) },
            bare: ->(spec) { spec.initrd_disk(:uefi, loaded: []) }, entries: lambda(&:starting_disk),
            store: ->(spec) { spec.store_disk(:uefi) }, store_bios: ->(spec) { spec.store_disk(:bios) } }.freeze
  BIOS = %i[bios store_bios].freeze
  VIRTIO = "00:02.0 SCSI storage controller [0100]: Made Up [1af4:1042]\n"
  AHCI = "00:02.0 SATA controller [0106]: Made Up [1ee7:0001]\n"
  U = InitrdDisks
  MIB = Disks::MIB

  ALL = [] # rubocop:disable Style/MutableConstant -- filled below

  # @param id [String] what is wrong
  def self.broken(id, base, step, state, says, mend: nil, starts: nil, computer: {}, attached: [], with: {}, &spoil)
    ALL << Case.new(id:, base:, spoil:, computer:, attached:, step:, state:, says:, mend:, starts:, with:)
  end

  # What the examples do to a disk's file.
  module Hands
    def in_esp(path, megabytes: U::ESP_MIB)
      volume = file('esp')
      run('dd', "if=#{path}", "of=#{volume}", 'bs=1M', 'skip=1', "count=#{megabytes}", 'conv=sparse', 'status=none')
      yield volume
      run('dd', "if=#{volume}", "of=#{path}", 'bs=1M', 'seek=1', 'conv=notrunc', 'status=none')
    end

    def put(volume, name, content)
      File.binwrite(file('put'), content)
      run('mcopy', '-o', '-i', volume, file('put'), "::#{name}")
    end

    def in_root(path, *commands, start: U::ROOT_START)
      run('debugfs', '-w', '-f', '-', "#{path}?offset=#{start}", input: "#{commands.join("\n")}\n")
    end

    # A file of the root, changed by the block.
    def change(path, name, start: U::ROOT_START)
      run('debugfs', '-R', "dump #{name} #{file('taken')}", "#{path}?offset=#{start}")
      File.binwrite(file('changed'), yield(File.binread(file('taken'))))
      in_root(path, "rm #{name}", "write #{file('changed')} #{name}", start:)
    end

    def zero(path, offset, length) = File.binwrite(path, "\0" * length, offset)

    def new_uuid(path, uuid = '99999999-9999-4999-8999-999999999999')
      run('e2fsck', '-fy', "#{path}?offset=#{U::ROOT_START}")
      run('tune2fs', '-U', uuid, "#{path}?offset=#{U::ROOT_START}")
    end
  end

  # --- the table, and the start-up part
  broken('the first copy of the GPT is damaged', :uefi, 'table', :ask, /one copy is good/, mend: 'gpt', starts: true) do |path|
    flip(path, 512 + 60)
  end
  broken('the second copy of the GPT is gone', :uefi, 'table', :ask, /one copy is good/, mend: 'gpt', starts: true) { |path| zero(path, U::SIZE - 512, 512) }
  broken('both copies of the GPT are damaged', :uefi, 'table', :no, /cannot be used/, starts: false) do |path|
    flip(path, 512 + 60)
    flip(path, U::SIZE - 512 + 60)
  end
  broken('there is no table', :uefi, 'table', :no, /No partition table/, starts: false) do |path|
    zero(path, 0, 17 * 512)
    zero(path, U::SIZE - (33 * 512), 33 * 512)
  end
  broken('the start-up part has another type', :uefi, 'startup-part', :ask, /another type/, mend: 'startup-type', starts: true) do |path|
    run('sgdisk', '-t', '1:8300', path)
  end
  broken('there is no start-up part', :uefi, 'startup-part', :no, /No start-up part/, starts: false) do |path|
    run('sgdisk', '-d', '1', path)
  end
  broken('the start-up part is no FAT', :uefi, 'startup-part', :no, /cannot be read/, starts: false) do |path|
    run('mke2fs', '-q', '-F', '-E', "offset=#{MIB}", path, '60M')
  end
  broken('the start-up part was not unmounted in order', :entries, 'startup-part', :ask, /Finds the start-up part/, starts: true) do |path|
    # The second entry of the FAT: a cleared bit says so.
    [32, 32 + 1024].first(1).each { |sector| File.binwrite(path, "\xFF\xFF\xFF\xF7".b, MIB + (sector * 512) + 4) }
  end

  # --- the loader
  broken('the loader lies only in a folder of its own', :uefi, 'loader', :no, /BOOTX64\.EFI is missing/, mend: 'fallback',
                                                                                                         starts: false) do |path|
    in_esp(path) do |volume|
      run('mmd', '-i', volume, '::EFI/QUAY')
      run('mmove', '-i', volume, '::EFI/BOOT/BOOTX64.EFI', '::EFI/QUAY/grubx64.efi')
    end
  end
  broken('the loader is missing', :uefi, 'loader', :no, /is missing/, mend: 'file', starts: false) do |path|
    in_esp(path) do |volume|
      run('mdel', '-i', volume, '::EFI/BOOT/BOOTX64.EFI')
    end
  end
  broken('the loader is no program', :uefi, 'loader', :no, /no program/, mend: 'file', starts: false) do |path|
    in_esp(path) do |volume|
      put(volume, 'EFI/BOOT/BOOTX64.EFI', 'x' * 9000)
    end
  end
  broken('the loader is for another processor', :uefi, 'loader', :no, /another processor/, mend: 'file', starts: false) do |path|
    in_esp(path) do |volume|
      run('mcopy', '-i', volume, '::EFI/BOOT/BOOTX64.EFI', file('loader'))
      bytes = File.binread(file('loader'))
      bytes[bytes.byteslice(0x3C, 4).unpack1('V') + 4, 2] = [0xAA64].pack('v')
      put(volume, 'EFI/BOOT/BOOTX64.EFI', bytes)
    end
  end
  broken('the loader is unsigned, and secure boot is on', :uefi, 'loader', :no, /no signature/, starts: false, computer: { 'secure_boot' => true },
                                                                                                with: { secure_boot: true }) do |_|
    nil
  end

  # --- its configuration
  broken('the configuration beside the loader is missing', :uefi, 'configuration', :no, /no configuration/, mend: 'file', starts: false) do |path|
    in_esp(path) { |volume| run('mdel', '-i', volume, '::EFI/BOOT/grub.cfg') }
  end
  broken('the configuration in the system is missing', :uefi, 'entry', :no, /nothing to start/, mend: 'file', starts: false) do |path|
    in_root(path, 'rm /boot/grub/grub.cfg')
  end
  broken('the configuration is cut off', :uefi, 'configuration', :no, /cannot be followed/, mend: 'file', starts: false) do |path|
    change(path, '/boot/grub/grub.cfg') { |text| text[0, text.index("menuentry 'Office'") + 60] }
  end
  broken('the root has another UUID than the loader searches for', :uefi, 'entry', :no, /does not find the part/, mend: 'references',
                                                                                                                  starts: false) do |path|
    new_uuid(path)
  end
  broken('the root has another UUID, and GRUB is on another part when it searches for it', :bios, 'entry', :no, /does not find the part/,
         mend: 'references', starts: false) do |path|
    change(path, '/boot/grub/grub.cfg') { |text| "search --no-floppy --fs-uuid --set=root #{InitrdDisks::IDS[:data_uuid]}\n#{text}" }
    new_uuid(path)
  end
  broken('the kernel is missing, after a search in vain for something else', :bios, 'kernel', :no, /is missing/, mend: 'file',
                                                                                                                 starts: false) do |path|
    change(path, '/boot/grub/grub.cfg') { |text| "search --no-floppy --fs-uuid --set=root 99999999-9999-4999-8999-999999999999\n#{text}" }
    in_root(path, 'rm /boot/vmlinuz')
  end
  broken('there are no entries', :entries, 'entry', :no, /no entry/, mend: 'file', starts: false) do |path|
    in_esp(path, megabytes: 512) do |volume|
      run('mdel', '-i', volume, '::loader/entries/office.conf')
    end
  end

  # --- kernel and initial ramdisk
  broken('the kernel is missing', :uefi, 'kernel', :no, /is missing/, mend: 'file', starts: false) { |path| in_root(path, 'rm /boot/vmlinuz') }
  broken('the kernel is missing in the start-up part', :entries, 'kernel', :no, /vmlinuz is missing/,
         mend: 'file', starts: false) do |path|
    in_esp(path, megabytes: 512) do |volume|
      run('mdel', '-i', volume, '::vmlinuz')
    end
  end
  broken('the kernel is for another processor', :uefi, 'kernel', :no, /no kernel for this computer/, mend: 'file', starts: false) do |path|
    change(path, '/boot/vmlinuz') { |bytes| ("\0" * 0x38) + "ARM\x64" + bytes.byteslice(0x3C..).tr('S', 'T')[0, 2_000_000] }
  end
  broken('the kernel is empty', :uefi, 'kernel', :no, /no kernel for this computer/, mend: 'file', starts: false) do |path|
    change(path, '/boot/vmlinuz') do
      ''
    end
  end
  broken('the initial ramdisk is missing', :uefi, 'ramdisk', :no, /is missing/, mend: 'file', starts: false) { |path| in_root(path, 'rm /boot/initrd') }
  broken('the initial ramdisk is damaged', :uefi, 'ramdisk', :no, /is damaged/, mend: 'file', starts: false) do |path|
    change(path, '/boot/initrd') { |bytes| bytes.byteslice(0, 2000) + ('x' * 4000) + bytes.byteslice(6000..) }
  end
  broken('the initial ramdisk is cut off', :bios, 'ramdisk', :no, /is damaged/,
         mend: 'file', starts: false) do |path|
    change(path, '/boot/initrd') do |bytes|
      bytes.byteslice(0, bytes.bytesize / 8)
    end
  end

  # --- the root, and what it needs
  broken('the kernel is told a root that is not there', :uefi, 'root', :no, /does not find its root/, mend: 'references',
                                                                                                      starts: false) do |path|
    change(path, '/boot/grub/grub.cfg') { |text| text.sub("root=UUID=#{U::IDS[:uuid]} ro", 'root=UUID=12345678-1234-4234-8234-123456789abc ro') }
  end
  broken('the root is named by its place', :uefi, 'root', :ask, /finds its root/, mend: 'references', starts: true) do |path|
    change(path, '/boot/grub/grub.cfg') { |text| text.sub("root=UUID=#{U::IDS[:uuid]} ro", 'root=/dev/nvme0n1p2 ro') }
  end
  broken('the root of an entry is on another disk', :entries, 'root', :no, /does not find its root/, mend: 'references',
                                                                                                     starts: false) do |path|
    in_esp(path, megabytes: 512) do |volume|
      put(volume, 'loader/entries/office.conf',
          "title Quay\nlinux /vmlinuz\noptions root=PARTUUID=12345678-1234-4234-8234-123456789abc rw console=ttyS0\n")
    end
  end
  broken('the root is damaged', :entries, 'root', :no, /root is damaged/, starts: false) do |path|
    File.binwrite(path, "\xFF".b * 8, (513 * MIB) + 1024 + 24)
  end
  broken('the root has no init', :uefi, 'init', :no, /no init/, mend: 'file', starts: false) do |path|
    in_root(path, 'rm /sbin/init', 'rm /bin/init')
  end
  broken('the ramdisk lacks the driver for the disk', :bare, 'storage', :no, /cannot drive/, mend: 'add-modules', starts: false, computer: { 'hardware' => VIRTIO },
                                                                                             with: { controller: :virtio }) do |_|
    nil
  end
  broken('the kernel knows no driver for the disk', :uefi, 'storage', :no, /no module|cannot drive/, starts: false,
                                                                                                     computer: { 'hardware' => AHCI }, with: { controller: :sata }) do |_|
    nil
  end
  broken('the system waits for a part that is gone', :uefi, 'mounts', :no, /waits for what is not there/, mend: 'references',
                                                                                                          starts: false) do |path|
    change(path, '/etc/fstab') { |text| text.sub(U::IDS[:data_uuid], '12345678-1234-4234-8234-123456789abc') }
  end
  broken('the system lists a part that it can do without', :uefi, 'mounts', :ask, /lists what is not there/, starts: true) do |path|
    change(path, '/etc/fstab') { |text| "#{text}UUID=12345678-1234-4234-8234-123456789abc /media ext4 nofail 0 0\n" }
  end
  broken('the root was not unmounted in order', :uefi, 'clean', :ask, /not unmounted in order/, starts: true) do |path|
    in_root(path, 'ssv state 0')
  end
  broken('the root is full', :uefi, 'room', :ask, /hardly any room/, starts: true) do |path|
    File.binwrite(file('ballast'), Random.new(1).bytes(MIB) * 420)
    in_root(path, "write #{file('ballast')} /var/ballast")
  end
  broken('the identity of the system is none', :uefi, 'identity', :ask, /no identity/,
         starts: true) do |path|
    change(path, '/etc/machine-id') do
      "quay\n"
    end
  end

  # --- the computer around it
  broken('a rescue medium comes first', :uefi, 'order', :no, /It would start/, mend: 'boot-order', computer: { 'boot_order' => ['USB', 'port 3'] },
                                                                               attached: [{ port: '9', bus: 'USB', word: 'the rescue stick', role: :rescue, starts: true }]) do |_|
    nil
  end
  broken('a twin is attached', :uefi, 'twin', :ask, /twin is attached/, mend: 'identities',
                                                                        attached: [{ port: '4', bus: 'SATA', word: 'the old drive', role: :twin, starts: true }]) do |_|
    nil
  end
  broken('a start entry points to a partition that is gone', :uefi, 'entries', :ask, /points to a partition that is gone/, mend: 'boot-entry', starts: true,
                                                                                                                           computer: { 'entries' => [{ 'name' => 'Office', 'path' => '\EFI\QUAY\grubx64.efi', 'partition' => 'dead0000-0000-4000-8000-000000000000' }] }) do |_|
    nil
  end
  broken('the start entry names a loader that is missing', :uefi, 'entries', :ask, /which is missing/, starts: true,
                                                                                                       computer: { 'entries' => [{ 'name' => 'Office', 'path' => '\EFI\QUAY\grubx64.efi', 'partition' => U::IDS[:esp] }] }) { |_| nil }

  # --- the way of a BIOS
  broken('the mark of the first sector is gone', :bios, 'boot-signature', :no, /not marked/, mend: 'boot-signature',
                                                                                             starts: false) do |path|
    zero(path, 510, 2)
  end
  broken('the code of the first sector is gone', :bios, 'boot-code', :no, /No code/, mend: 'boot-code', starts: false) do |path|
    zero(path, 0, 440)
  end
  broken('the core is overwritten', :bios, 'core', :no, /not where its code looks/, mend: 'core', starts: false) do |path|
    zero(path, 512, 4096)
  end
  broken('the core’s list of blocks is wrong', :bios, 'core', :no, /not where its code looks/, mend: 'core', starts: false) do |path|
    File.binwrite(path, [0xFFFFFFFFFF, 9999].pack('Q<v'), 512 + 0x1F4)
  end
  broken('the part with the loader’s files is gone from the table', :bios, 'prefix', :no, /does not find its own files/,
         starts: false) do |path|
    zero(path, 446 + 16, 16)
  end
  broken('two partitions are active', :bios, 'active', :ask, /2 partitions are active/, mend: 'active', starts: true) do |path|
    File.binwrite(path, "\x80".b, 446)
  end
  broken('the configuration on the card is missing', :bios, 'configuration', :no, /no configuration/, mend: 'file', starts: false) do |path|
    in_root(path, 'rm /boot/grub/grub.cfg')
  end
  broken('the root of the card has another UUID', :bios, 'root', :no, /does not find its root/, mend: 'references', starts: false) do |path|
    new_uuid(path)
  end

  # --- systems on NTFS: nothing that could be started here
  broken('no partition is active', :store_bios, 'active', :no, /No partition is active/, mend: 'active') { |path| zero(path, 446, 1) }
  broken('the boot record looks in the wrong place', :store_bios, 'boot-record', :no, /wrong place/, mend: 'hidden-sectors') do |path|
    File.binwrite(path, [63].pack('V'), MIB + 28)
  end
  broken('the boot record is empty', :store_bios, 'boot-record', :no, /no boot record/, mend: 'boot-record') do |path|
    zero(path, MIB + 84, 426)
  end
  broken('the start-up program is missing', :store_bios, 'loader', :no,
         /bootmgr is missing/) do |path|
    change_store_volume(path, :bios) do |folder|
      FileUtils.rm("#{folder}/bootmgr")
    end
  end
  broken('the store is missing', :store_bios, 'store', :no, /store is missing/) do |path|
    change_store_volume(path, :bios) do |folder|
      FileUtils.rm("#{folder}/Boot/BCD")
    end
  end
  broken('the store is damaged', :store_bios, 'store', :no, /store is damaged/) do |path|
    change_store_volume(path, :bios) do |folder|
      File.binwrite("#{folder}/Boot/BCD", 'x' * 300, 20)
    end
  end
  broken('the store points to a partition that is gone', :store, 'root', :no, /points to a partition that is not there/,
         mend: 'partition-guid') do |path|
    run('sgdisk', '-u', '2:R', path)
  end
  broken('the store names the place of another partition', :store_bios, 'root', :no, /points to a partition that is not there/,
         mend: 'store') do |path|
    change_store_volume(path, :bios) do |folder|
      File.binwrite("#{folder}/Boot/BCD", MadeHive.store_mbr(offset: 63 * 512, signature: StoreDisks::SIGNATURE.hex, path: StoreDisks::LOADER))
    end
  end
  broken('the disk has another signature than its store says', :store_bios, 'root', :no, /points to a partition that is not there/,
         mend: 'store') do |path|
    File.binwrite(path, [0x7e57ab1e].pack('V'), 440)
  end
  broken('the system’s loader is missing', :store, 'system', :no,
         /loader.efi is missing/) do |path|
    change_store_volume(path, :uefi) do |folder|
      FileUtils.rm("#{folder}#{StoreDisks::LOADER}")
    end
  end
  broken('the NTFS volume was not unmounted in order', :store, 'clean', :ask, /not unmounted in order/) do |path|
    # $Volume is the fourth record; the flags of its $VOLUME_INFORMATION say so.
    volume = path
    at = StoreDisks::NTFS_START[:uefi]
    cluster = File.binread(volume, 1, at + 13).ord * 512
    record = at + (File.binread(volume, 8, at + 48).unpack1('Q<') * cluster) + (3 * 1024)
    bytes = File.binread(volume, 1024, record)
    place = bytes.index([0x70, 40].pack('V2')) || bytes.index([0x70].pack('V'))
    File.binwrite(volume, "\1", record + place + bytes.byteslice(place + 20, 2).unpack1('v') + 10)
  end
end

RSpec.configure { |config| config.include BrokenDisks::Hands }
