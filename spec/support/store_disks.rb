# frozen_string_literal: true

require_relative 'made_hive'

# Disks with a system on NTFS that is started through a store, UEFI or BIOS: as
# much of it as the chain reads. Nothing on them could really be started.
module StoreDisks
  SIZE = 200 * (1024**2)
  GUID = '5706e000-1111-4222-8333-444444444401'
  PART = '5706e000-1111-4222-8333-444444444402'
  SIGNATURE = '0badf00d'
  LOADER = '/System/start/loader.efi'
  NTFS_START = { uefi: 66 * (1024**2), bios: 1024**2 }.freeze
  NTFS_MIB = 100
  STORE = { uefi: '/EFI/Quay/Boot/BCD', bios: '/Boot/BCD' }.freeze

  # @param firmware [Symbol] :uefi or :bios
  # @return [String] a copy that the example may spoil
  def store_disk(firmware, name: "store-#{firmware}.raw")
    made_once("store-#{firmware}", name) { |made| firmware == :uefi ? store_uefi(made) : store_bios(made) }
  end

  # What a program of a firmware's looks like from outside.
  def some_program = File.binread("#{StartingDisks::FILES}/systemd-bootx64.efi")

  private

  def store_uefi(name)
    path = partitioned(name, SIZE, <<~SCRIPT)
      label: gpt
      label-id: #{GUID}
      start=2048, size=64M, type=U, name="Start-up"
      start=#{NTFS_START[:uefi] / 512}, size=#{NTFS_MIB}M, type=EBD0A0A2-B9E5-4433-87C0-68B6B72699C7, uuid=#{PART}, name="Office"
    SCRIPT
    volume = sparse("#{name}-esp", 64 * Disks::MIB)
    run('mkfs.vfat', '-F', '32', volume)
    store = MadeHive.store(part: PART, disk: GUID, path: LOADER)
    { 'EFI/BOOT/BOOTX64.EFI' => some_program, 'EFI/Quay/Boot/loader.efi' => some_program,
      'EFI/Quay/Boot/BCD' => store }.each do |file, bytes|
      put_fat(volume, file, bytes)
    end
    copy_in(volume, path, Disks::MIB)
    ntfs_system(path, NTFS_START[:uefi], { LOADER.delete_prefix('/') => some_program })
  end

  def store_bios(name)
    path = partitioned(name, SIZE, "label: dos\nlabel-id: 0x#{SIGNATURE}\nstart=2048, size=#{NTFS_MIB}M, type=7, bootable\n")
    File.binwrite(path, Random.new(4).bytes(440), 0) # code that nobody here knows
    store = MadeHive.store_mbr(offset: Disks::MIB, signature: SIGNATURE.hex, path: LOADER)
    ntfs_system(path, NTFS_START[:bios], { 'bootmgr' => 'x' * 9000, 'Boot/BCD' => store, LOADER.delete_prefix('/') => some_program })
  end

  def put_fat(volume, name, bytes)
    File.binwrite(file('put'), bytes)
    name.split('/')[0..-2].each_with_index { |_, index| `mmd -i #{volume} -D s ::#{name.split('/')[0..index].join('/')} 2>&1` }
    run('mcopy', '-o', '-i', volume, file('put'), "::#{name}")
  end

  # mkntfs writes code into the record, and where the volume lies.
  def ntfs_system(path, start, files)
    volume = sparse("#{File.basename(path)}-ntfs", NTFS_MIB * Disks::MIB)
    run('mkntfs', '-q', '-F', '-Q', '-L', 'Office', '-p', (start / 512).to_s, volume)
    change_ntfs(volume) do |folder|
      files.each do |name, bytes|
        FileUtils.mkdir_p(File.dirname("#{folder}/#{name}")) && File.binwrite("#{folder}/#{name}", bytes)
      end
    end
    copy_in(volume, path, start)
  end

  def change_ntfs(volume)
    folder = file('mounted')
    FileUtils.mkdir_p(folder)
    run('ntfs-3g', volume, folder)
    yield folder
  ensure
    run('umount', folder)
  end

  # The NTFS volume of such a disk, taken out, changed, and put back.
  def change_store_volume(disk, firmware, &)
    volume = file('taken-out')
    start = NTFS_START[firmware] / Disks::MIB
    run('dd', "if=#{disk}", "of=#{volume}", 'bs=1M', "skip=#{start}", "count=#{NTFS_MIB}", 'conv=sparse', 'status=none')
    change_ntfs(volume, &)
    run('dd', "if=#{volume}", "of=#{disk}", 'bs=1M', "seek=#{start}", 'conv=notrunc', 'status=none')
  end
end

RSpec.configure { |config| config.include StoreDisks }
