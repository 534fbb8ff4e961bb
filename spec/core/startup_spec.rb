# frozen_string_literal: true

RSpec.describe Evrel::Startup do
  let(:disk) { starting_disk }

  def chain(path = disk, **computer) = open_disk(path) { |opened| Evrel::Startup.chain(opened, computer.transform_keys(&:to_s)) }
  def states(...) = chain(...).to_h { |step| [step.id, step.state] }

  it 'walks the whole chain of a good disk, with evidence for each step' do
    expect(states).to eq('firmware' => :ok, 'table' => :ok, 'startup-part' => :ok, 'loader' => :ok, 'entry' => :ok, 'kernel' => :ok,
                         'ramdisk' => :ok, 'root' => :ok, 'init' => :ok, 'modules' => :ok, 'mounts' => :ok, 'clean' => :ok,
                         'room' => :ok)
    expect(chain.map(&:title)).to include('Runs EFI/BOOT/BOOTX64.EFI', 'The loader picks “Quay”')
    expect(chain).to all(have_attributes(evidence: be_a(String)))
  end

  # No code in the first sector, an active partition: whom it was made for shows in who could read it.
  { '83' => 'bios', '7' => 'bios', 'c' => 'uefi', 'e' => 'uefi' }.each do |type, kind|
    it "takes a disk without code for #{kind}, whose active partition and only one is of type #{type}" do
      path = partitioned("active-#{type}", 64 * Disks::MIB, "label: dos\nstart=2048, size=20M, type=#{type}, bootable\n")
      expect(open_disk(path) { |opened| Evrel::Startup::FirmwareKind.of(opened) }.first).to eq(kind)
    end
  end

  def replace(volume, name, content)
    File.binwrite(file('new'), content)
    run('mcopy', '-o', '-i', volume, file('new'), "::#{name}")
  end

  { 'root=UUID=55555555-5555-4555-8555-555555555555' => :ok, 'root=LABEL=System' => :ok, 'root=PARTLABEL=System' => :ok,
    'root=/dev/disk/by-label/System' => :ok, 'root=/dev/nvme0n1p2' => :ask, 'root=/dev/sda2' => :ask, 'quiet' => :ask,
    'root=/dev/mapper/quay-root' => :no }.each do |root, state|
    it "says #{state} of the root by #{root}" do
      change_startup(disk) { |volume| replace(volume, 'loader/entries/office.conf', "linux /vmlinuz\noptions #{root}\n") }
      expect(states['root']).to eq(state)
    end
  end

  it 'starts what a unified kernel image holds, as the emulator does' do
    cut = file('uki.efi')
    sections = { '.cmdline' => "root=PARTUUID=#{StartingDisks::IDS[:system]} rw console=ttyS0\0", '.linux' => File.binread("#{StartingDisks::FILES}/vmlinuz") }
    arguments = sections.each_with_index.flat_map do |(name, bytes), index|
      File.binwrite(file(name), bytes)
      ['--add-section', "#{name}=#{file(name)}", '--change-section-vma', "#{name}=0x#{((index * 0x1000000) + 0x2000000).to_s(16)}"]
    end
    run('objcopy', *arguments, "#{StartingDisks::FILES}/linuxx64.efi.stub", cut)
    change_startup(disk) { |volume| replace(volume, 'EFI/BOOT/BOOTX64.EFI', File.binread(cut)) }
    expect(chain.find { |step| step.id == 'entry' }).to have_attributes(state: :ok, title: 'The loader holds the kernel itself')
    expect(states.values).to all(eq(:ok))
    # Where it is told its root in there, the disk cannot have another identity.
    expect { open_disk(disk) { |opened| Evrel::Startup::Mend.draft('identities', disk: opened) } }
      .to raise_error(Evrel::Refused, /would not start any more/)
    expect_start(disk)
  end

  it 'goes by the signed loaders where secure boot is on, as the emulator does' do
    path = initrd_disk
    in_esp(path) do |volume|
      %w[shimx64 grubx64].zip(%w[BOOTX64 grubx64]).each { |from, to| put(volume, "EFI/BOOT/#{to}.EFI", File.binread("#{StartingDisks::FILES}/#{from}.efi")) }
      run('mmd', '-i', volume, '::EFI/debian')
      put(volume, 'EFI/debian/grub.cfg',
          "search.fs_uuid #{InitrdDisks::IDS[:uuid]} root\nset prefix=($root)/boot/grub\nconfigfile $prefix/grub.cfg\n")
    end
    expect(chain(path, secure_boot: true).map(&:state)).to all(eq(:ok))
    expect_start(path, secure_boot: true)
  end

  it 'gives a disk an identity of its own beside its twin, and it starts' do
    before = open_disk(disk) { |opened| Evrel::Table.read(opened) }
    draft = open_disk(disk) { |opened| Evrel::Startup::Mend.draft('identities', disk: opened) }
    open_disk(disk, writable: true) { |opened| Evrel::Startup::Mend::Execution.apply(opened, draft, file('record')) }
    after = open_disk(disk) { |opened| Evrel::Table.read(opened) }
    expect(after.guid).not_to eq(before.guid)
    expect(after.partitions.map(&:guid) & before.partitions.map(&:guid)).to be_empty
    uuids = open_disk(disk) { |opened| after.partitions.map { |part| Evrel::Volume.recognise(part.window(opened)).uuid } }
    expect(uuids & StartingDisks::IDS.values_at(:system_uuid, :recovery_uuid)).to be_empty
    [513, 2047].each { |start| run('e2fsck', '-fn', "#{disk}?offset=#{start * Disks::MIB}") }
    expect(run('sgdisk', '-v', disk)).to include('No problems found')
    expect(states.values).to all(eq(:ok))
    expect_start(disk)
  end

  ['lz4 -l', 'lzop', 'xz --format=lzma'].each do |tool|
    it "looks into an initial ramdisk that is packed by #{tool}, and adds to it" do
      path = initrd_disk(:uefi, loaded: [])
      change(path, '/boot/initrd') do |bytes|
        File.binwrite(file('packed'), bytes)
        run('sh', '-c', "gzip -dc < #{file('packed')} | #{tool} -c > #{file('again')}")
        File.binread(file('again'))
      end
      hardware = { hardware: BrokenDisks::VIRTIO }
      said = chain(path, **hardware).find { |step| step.state == :no }
      expect(said).to have_attributes(id: 'storage', mend: 'add-modules')
      draft = open_disk(path) { |opened| Evrel::Startup::Mend.draft(said.mend, disk: opened, about: said.about) }
      open_disk(path, writable: true) { |opened| Evrel::Startup::Mend::Execution.apply(opened, draft, file('record')) }
      expect(chain(path, **hardware).map(&:state)).to all(eq(:ok))
    end
  end

  it 'gives a disk with an MBR a signature of its own, with which it starts' do
    path = initrd_disk(:bios)
    draft = open_disk(path) { |opened| Evrel::Startup::Mend.draft('identities', disk: opened) }
    open_disk(path, writable: true) { |opened| Evrel::Startup::Mend::Execution.apply(opened, draft, file('record')) }
    expect(JSON.parse(run('sfdisk', '--json', path))['partitiontable']['id']).not_to include(draft.before)
    expect(chain(path, firmware: 'bios').map(&:state)).to all(eq(:ok))
    expect_start(path, firmware: 'bios')
  end

  %i[uefi bios].each do |firmware|
    it "gives a disk an identity of its own whose store names its partition, #{firmware}" do
      path = store_disk(firmware)
      states = -> { chain(path, firmware: firmware.to_s).to_h { |step| [step.id, step.state] } }
      expect(states.call).to include('root' => :ok, 'system' => :ok)
      before = open_disk(path) { |opened| Evrel::Table.read(opened) }
      draft = open_disk(path) { |opened| Evrel::Startup::Mend.draft('identities', disk: opened) }
      open_disk(path, writable: true) { |opened| Evrel::Startup::Mend::Execution.apply(opened, draft, file('record')) }
      after = open_disk(path) { |opened| Evrel::Table.read(opened) }
      expect([before, after].map { |table| table.partitions.map(&:guid) }.reduce(:&)).to be_empty
      expect(JSON.parse(run('sfdisk', '--json', path))['partitiontable']['id'].downcase.delete_prefix('0x')).to eq(after.guid)
      expect(states.call).to include('root' => :ok, 'system' => :ok)
      if firmware == :bios
        change_store_volume(path, :bios) { |folder| FileUtils.cp("#{folder}/Boot/BCD", file('store')) }
      else
        in_esp(path, megabytes: 64) { |volume| run('mcopy', '-i', volume, '::EFI/Quay/Boot/BCD', file('store')) }
      end
      expect(run('hivexml', file('store'))).to include('9dea862c-5cdd-4e70-acc1-f32b344d4795')
    end
  end

  it 'names what is encrypted or made of logical volumes, and looks no further' do
    change_startup(disk) { |volume| replace(volume, 'loader/entries/office.conf', "linux /vmlinuz\noptions root=/dev/mapper/quay\n") }
    expect(chain.last).to have_attributes(id: 'root', state: :no)
    system = sparse('luks', 40 * Disks::MIB)
    run('cryptsetup', 'luksFormat', '-q', '--pbkdf', 'pbkdf2', '--pbkdf-force-iterations', '1000', system, '-', input: 'a passphrase')
    copy_in(system, disk, 513 * Disks::MIB)
    expect(chain.last).to have_attributes(id: 'root', state: :ask, detail: /encrypted/)
    File.binwrite(disk, "LABELONE#{"\0" * 16}LVM2 001", (513 * Disks::MIB) + 512)
    File.binwrite(disk, "\0" * 8, 513 * Disks::MIB)
    expect(chain.last).to have_attributes(id: 'root', state: :ask, detail: /logical volumes/)
  end

  it 'changes all places that name a partition, or none: not where the system’s own files cannot be reached' do
    mib = 1024**2
    old = '0a0b0c0d-1111-4222-8333-444455556666'
    disks = { 'lvm' => ['LABELONE', 'LVM2 001'], 'plain' => ['', ''] }.map do |name, (mark, type)|
      path = partitioned("#{name}.raw", 300 * mib, "label: gpt\nsize=100M, type=L\nsize=100M, type=L\n")
      boot = ext("#{name}-boot", 100 * mib, '-t', 'ext4', '-U', old, from: tree('grub/grub.cfg' => "search --fs-uuid --set=root #{old}\n"))
      copy_in(boot, path, mib)
      File.binwrite(path, mark.b + [1, 0, 32].pack('Q<VV') + type.b, (101 * mib) + 512) unless mark.empty?
      run('cp', '--sparse=always', path, file("#{name}-image"))
      run('tune2fs', '-U', 'random', boot)
      copy_in(boot, path, mib)
      about = { spec: "UUID=#{old}" }
      open_disk(path) do |disk|
        open_disk(file("#{name}-image")) { |image| described_class::Mend.draft('references', disk:, about:, image:) }
      end
    rescue Evrel::Refused => e
      e.message
    end
    expect(disks).to match([/lie in partition 2 \(lvm\), which cannot be changed from here/, have_attributes(before: old)])
  end

  it 'uses the loader that a start entry names' do
    change_startup(disk) { |volume| run('mmove', '-i', volume, '::EFI/BOOT/BOOTX64.EFI', '::EFI/quay.efi') }
    expect(states['loader']).to eq(:no)
    expect(states(entries: [{ 'name' => 'Quay', 'path' => '\EFI\quay.efi',
                              'partition' => StartingDisks::IDS[:esp].upcase }])['loader']).to eq(:ok)
  end

  it 'says what is wrong with the description of a computer' do
    expect { chain(firmware: 'tape') }.to raise_error(Evrel::Damaged, /firmware of the computer is/)
    expect { chain(entries: 'none') }.to raise_error(Evrel::Damaged, /entries/)
    expect { chain(hardware: 'a mouse') }.to raise_error(Evrel::Damaged, /names no device/)
  end

  describe Evrel::Startup::HardwareList do
    it 'reads what lspci prints, and modaliases' do
      list = described_class.parse(<<~TEXT)
        00:17.0 SATA controller [0106]: Made Up Controller [1ee7:a102] (rev 31) (prog-if 01 [AHCI 1.0])
        \tSubsystem: Made Up Board [1ee7:0706]
        \tKernel driver in use: ahci
        pci:v00001EE7d00000100sv00001EE7sd00000001bc02sc00i00
      TEXT
      expect(list.devices.map(&:role)).to eq(%i[storage network])
      expect(list.devices.first).to have_attributes(driver: 'ahci', modalias: 'pci:v00001EE7d0000A102sv00001EE7sd00000706bc01sc06i01')
      expect(list.devices.first.hardware_ids).to start_with('PCI\VEN_1EE7&DEV_A102&SUBSYS_07061EE7')
    end
  end

  describe Evrel::Startup::DriverPack do
    def pack(name, identifier, date)
      folder = file("packs/#{name}")
      FileUtils.mkdir_p(folder)
      File.write("#{folder}/driver.inf", <<~INF)
        [Version]
        Class=SCSIAdapter
        Provider=%maker%
        DriverVer=#{date},1.2.3
        [Manufacturer]
        %maker%=Models,NTamd64
        [Models.NTamd64]
        %device%=Install,#{identifier} ; the one
        [Strings]
        maker="Made Up"
        device="Controller"
      INF
      File.binwrite("#{folder}/driver.sys", 'x' * 5000)
      folder
    end

    let(:hardware) { Evrel::Startup::HardwareList.parse("00:17.0 SATA controller [0106]: Made Up [1ee7:a102]\n") }

    it 'lists packs that match, the best first' do
      pack('of-its-class', 'PCI\CC_0106', '01/01/2026')
      pack('older', 'PCI\VEN_1EE7&DEV_A102', '03/01/2020')
      pack('newer', 'PCI\VEN_1EE7&DEV_A102', '03/01/2024')
      pack('for-another', 'PCI\VEN_1EE7&DEV_B000', '01/01/2026')
      FileUtils.mkdir_p(file('packs/empty'))
      found = described_class.matching(file('packs'), hardware)
      expect(found.map { |match| match.pack.name }).to eq(%w[newer older of-its-class])
      expect(found.first.pack).to have_attributes(provider: 'Made Up', kind: 'SCSIAdapter', version: '1.2.3')
    end

    it 'is placed in the restored volume, and can be taken back' do
      path = store_disk(:uefi)
      before = held(path)
      draft = open_disk(path) { |opened| Evrel::Startup::Mend.draft('drivers', disk: opened, about: { number: 2, packs: [pack('controller', 'PCI\CC_0106', '01/01/2026')] }) }
      open_disk(path, writable: true) { |opened| Evrel::Startup::Mend::Execution.apply(opened, draft, file('record')) }
      change_store_volume(path, :uefi) { |folder| expect(File.binread("#{folder}/Drivers/controller/driver.sys")).to eq('x' * 5000) }
      expect(held(path)).not_to eq(before)
    end
  end

  describe Evrel::Startup::BootStore do
    it 'is a hive in the eyes of another reader too, and survives being spoiled' do
      bytes = MadeHive.store(part: StoreDisks::PART, disk: StoreDisks::GUID, path: '/System/loader.efi')
      File.binwrite(file('store'), bytes)
      expect(run('hivexml', file('store'))).to include('9dea862c-5cdd-4e70-acc1-f32b344d4795', '12000002')
      expect(described_class.new(bytes).default).to have_attributes(title: 'Office', path: '/System/loader.efi',
                                                                    device: have_attributes(guid: StoreDisks::PART))
      random = Random.new(5)
      200.times do
        spoilt = bytes.dup
        3.times { spoilt.setbyte(4096 + random.rand(spoilt.bytesize - 4096), random.rand(256)) }
        described_class.new(spoilt).default
      rescue Evrel::Damaged
        next
      end
    end
  end

  describe Evrel::Startup::GrubConfig do
    # What GRUB's own checker takes must be taken here.
    it 'follows a configuration as a distribution writes it' do
      path = initrd_disk
      in_root(path, 'write /usr/share/grub/grub-mkconfig_lib /boot/grub/unused') if File.exist?('/usr/share/grub/grub-mkconfig_lib')
      text = <<~CFG
        if [ -s $prefix/grubenv ]; then
          set have_grubenv=true
          load_env
        fi
        if [ "${next_entry}" ] ; then set default="${next_entry}"; else set default="${saved_entry}"; fi
        if [ x"${feature_menuentry_id}" = xy ]; then menuentry_id_option="--id"; else menuentry_id_option=""; fi
        function load_video {
          if [ x$feature_all_video_module = xy ]; then insmod all_video; else insmod efi_gop; fi
        }
        if [ "$grub_platform" = xen ] -o [ -f /nothing ]; then false; elif true; then set timeout=5; fi
        for one in a b; do echo $one; done
        menuentry 'First' --class x $menuentry_id_option 'first' { linux /boot/none }
        submenu "More \\"options\\"" --id 'more' {
          menuentry 'Second' --id second {
            load_video
            search --no-floppy --fs-uuid --set=root #{InitrdDisks::IDS[:uuid]}
            linux ($root)/boot/vmlinuz root=UUID=#{InitrdDisks::IDS[:uuid]} \\
              quiet
            initrd /boot/initrd
          }
        }
      CFG
      File.write(file('made.cfg'), text)
      run('grub-script-check', file('made.cfg'))
      change(path, '/boot/grub/grub.cfg') { text }
      File.write(file('grubenv'), "# GRUB Environment Block\nsaved_entry=more>second\n#{'#' * 900}")
      in_root(path, "write #{file('grubenv')} /boot/grub/grubenv")
      open_disk(path) do |opened|
        places = Evrel::Startup::Places.new(opened, Evrel::Table.read(opened))
        choice = described_class.new(places, places.partitions[1], '/boot/grub').choice('/boot/grub/grub.cfg')
        expect(choice).to have_attributes(title: 'Second', kernel: [places.partitions[1], '/boot/vmlinuz'], root: "UUID=#{InitrdDisks::IDS[:uuid]}")
      end
    end

    ['menuentry x {', 'if true; then', "set a='b", '}', 'fi', 'function', 'configfile /boot/grub/grub.cfg', "menuentry a { }\n" * 3,
     'while true; do true; done'].each do |text|
      it "ends, whatever it is given: #{text.inspect[0, 40]}" do
        path = initrd_disk
        change(path, '/boot/grub/grub.cfg') { text }
        Timeout.timeout(60) { expect(chain(path).map(&:state)).to include(:no) }
      end
    end
  end

  it 'finds the programs of a system whose /usr is a part of its own' do
    root = tree({ 'etc/fstab' => "x\n", 'usr/none' => '' })
    %w[bin sbin lib].each { |name| File.symlink("usr/#{name}", "#{root}/#{name}") }
    usr = tree({ 'lib/systemd/systemd' => 'the first program' })
    FileUtils.mkdir_p("#{usr}/sbin")
    File.symlink('/lib/systemd/systemd', "#{usr}/sbin/init")
    volumes = { root => 'root', usr => 'usr' }.map do |from, name|
      Evrel::Volume.recognise(Evrel::Disk::File.open(ext(name, 8 * Disks::MIB, '-t', 'ext4', from:)))
    end
    files = Evrel::Startup::SystemFiles.new(*volumes)
    expect(files.head('/sbin/init', 100)).to eq('the first program')
    expect(files.exist?('/etc/fstab')).to be(true)
    expect(files.exist?('/sbin/getty')).to be(false)
  end

  it 'looks for GRUB’s files where its loader was told that they lie, as the emulator does' do
    path = initrd_disk
    in_esp(path) do |volume|
      run('grub-mkimage', '-O', 'x86_64-efi', '-o', file('grub.efi'), '-p', '(,gpt2)/boot/grub', *InitrdDisks::EFI)
      put(volume, 'EFI/BOOT/BOOTX64.EFI', File.binread(file('grub.efi')))
      run('mdel', '-i', volume, '::EFI/BOOT/grub.cfg')
    end
    expect(chain(path).map(&:state)).to all(eq(:ok))
    expect_start(path, controller: :virtio)
    in_esp(path) do |volume|
      run('grub-mkimage', '-O', 'x86_64-efi', '-o', file('grub.efi'), '-p', '(lvm/quay-root)/boot/grub', *InitrdDisks::EFI)
      put(volume, 'EFI/BOOT/BOOTX64.EFI', File.binread(file('grub.efi')))
    end
    expect(chain(path).last).to have_attributes(id: 'configuration', state: :ask, detail: %r{\(lvm/quay-root\)})
  end

  it 'follows what GRUB is told to read beside its loader, as the emulator does' do
    path = initrd_disk
    File.write(file('early.cfg'), "configfile $cmdpath/own.cfg\n")
    own = <<~CFG
      if [ "$grub_platform" != efi ]; then linux /nothing; fi
      search --fs-uuid --set=root #{InitrdDisks::IDS[:uuid]}
      configfile /boot/grub/grub.cfg
    CFG
    in_esp(path) do |volume|
      run('grub-mkimage', '-O', 'x86_64-efi', '-o', file('grub.efi'), '-p', '', '-c', file('early.cfg'), *InitrdDisks::EFI)
      put(volume, 'EFI/BOOT/BOOTX64.EFI', File.binread(file('grub.efi')))
      put(volume, 'EFI/BOOT/own.cfg', own)
      run('mdel', '-i', volume, '::EFI/BOOT/grub.cfg')
    end
    expect(chain(path).map(&:state)).to all(eq(:ok))
    expect_start(path, controller: :virtio)
    in_esp(path) { |volume| run('mdel', '-i', volume, '::EFI/BOOT/own.cfg') }
    expect(chain(path).last).to have_attributes(state: :no, mend: 'file', detail: /own.cfg/,
                                                about: { number: 1, paths: ['/EFI/BOOT/own.cfg'] })
  end

  it 'puts links back that lead to the init' do
    image = initrd_disk
    path = sparse('spoilt', File.size(image))
    run('cp', '--sparse=always', image, path)
    in_root(path, 'rm /sbin/init', 'rm /bin/init')
    step = chain(path).find { |one| one.state == :no }
    expect(step).to have_attributes(id: 'init', mend: 'file')
    open_disk(path, writable: true) do |opened|
      open_disk(image) do |whole|
        draft = Evrel::Startup::Mend.draft('file', disk: opened, about: step.about, image: whole)
        expect(draft.after).to end_with('/sbin/init leads to ../bin/busybox')
        Evrel::Startup::Mend::Execution.apply(opened, draft, file('record'))
      end
    end
    expect(chain(path).map(&:state)).to all(eq(:ok))
    expect_start(path, controller: :virtio)
  end

  it 'offers another kernel that is installed, and it starts' do
    path = initrd_disk
    in_root(path, 'ln /boot/vmlinuz /boot/vmlinuz-6.1.0-9', 'ln /boot/initrd /boot/initrd-6.1.0-9',
            'ln /boot/vmlinuz /boot/vmlinuz-6.1.0-4', 'ln /boot/initrd /boot/initrd-6.1.0-4', 'ln /boot/vmlinuz /boot/vmlinuz-6.1.0-11')
    change(path, '/boot/grub/grub.cfg') { |text| text.gsub(%r{/boot/(?:vmlinuz|initrd)}) { |name| "#{name}-6.1.0-10" } }
    expect(chain(path).last(2)).to match([have_attributes(id: 'kernel', state: :no, mend: 'file'),
                                          have_attributes(id: 'other-kernel', state: :ask, title: '6.1.0-9 is installed beside it')])
    open_disk(path, writable: true) do |opened|
      draft = Evrel::Startup::Mend.draft('other-kernel', disk: opened, about: chain(path).last.about)
      expect(draft).to have_attributes(title: 'Start 6.1.0-9 instead', after: '/boot/vmlinuz-6.1.0-9 and /boot/initrd-6.1.0-9')
      Evrel::Startup::Mend::Execution.apply(opened, draft, file('record'))
    end
    expect(chain(path).map(&:state)).to all(eq(:ok))
    expect_start(path, controller: :virtio)
  end

  describe Evrel::Startup::Trial do
    it 'starts a disk, takes a picture, and changes nothing' do
      before = [held(disk), File.mtime(disk)]
      proof = Evrel::Startup::Proof.new(user: 'root', command: 'cat /etc/hostname', expect: 'TKT-09')
      result = described_class.new(disk, format: 'raw', proof:).run(picture: file('screen.png'))
      expect(result).to have_attributes(outcome: :reached, seconds: be > 1, picture: file('screen.png'), answer: /TKT-09/,
                                        message: /gave “TKT-09”/)
      expect(result.milestones.map { |one| one[:seconds] }).to all(be_a(Float))
      expect(File.binread(file('screen.png'), 8)).to eq("\x89PNG\r\n\x1A\n".b)
      expect([held(disk), File.mtime(disk)]).to eq(before)
    end

    it 'takes what somebody types, and tells a loop from a start' do
      real_start!
      # A system that is told to start again each time it asks for a log-in.
      answers = { /login:\s*\z/ => "root\n", /# \z/ => "reboot\n" }
      asked = nil
      result = described_class.new(disk, format: 'raw', limit: 400, expect: 'never this').run do |look, emulator|
        line = answers.find { |sign, _| look.text.match?(sign) }&.last
        emulator.type(line) if line && line != asked
        asked = line || asked
        nil
      end
      expect(result).to have_attributes(outcome: :loop, message: /again and again/)
    end

    # Disks whose kernel and user land know of no serial line.
    def silent_bios
      initrd_disk(:bios).tap { |path| change(path, '/boot/grub/grub.cfg') { |text| text.gsub(' console=ttyS0', '') } }
    end

    def silent_uefi
      change_startup(disk) { |volume| replace(volume, 'loader/entries/office.conf', <<~CONF) }
        linux /vmlinuz
        options root=PARTUUID=#{StartingDisks::IDS[:system]} rw
      CONF
      disk
    end

    { bios: [InitrdDisks::ROOT_START, :virtio], uefi: [513 * Disks::MIB, :nvme] }.each do |firmware, (start, controller)|
      it "reads the screen of a system that says nothing on a serial line, and answers by its keyboard: #{firmware}" do
        real_start! unless firmware == :bios
        path = send("silent_#{firmware}")
        change(path, '/etc/inittab', start:) { |text| text.lines.grep_v(/ttyS0/).join }
        proof = Evrel::Startup::Proof.new(user: 'root', command: 'cat /etc/hostname | tr 0-9T +x', expect: 'xK')
        result = described_class.new(path, format: 'raw', firmware:, proof:, controller:).run
        expect(result).to have_attributes(outcome: :reached, answer: /xK/, text: /TKT-\d+ login: root/)
        expect(result.milestones.map { |one| one[:seconds] }).to all(be_a(Float))
      end
    end

    it 'takes a picture that waits for somebody for a start, and says that nothing can be read on it' do
      real_start!
      path = silent_uefi
      change(path, '/etc/inittab', start: 513 * Disks::MIB) { |text| text.lines.grep_v(/tty/).join }
      change(path, '/etc/rc', start: 513 * Disks::MIB) do |text|
        "#{text}cat /bin/busybox /bin/busybox /bin/busybox >/dev/fb0 2>/dev/null\ndate >/var/log/started\nsync\n"
      end
      in_root(path, 'sif /etc/rc mode 0100755', start: 513 * Disks::MIB)
      result = described_class.new(path, format: 'raw').run(picture: file('screen.png'))
      expect(result).to have_attributes(outcome: :reached, seconds: be > Evrel::Startup::Trial::WAITS, from: 0,
                                        message: /a screen that waits.*no text can be read/)
    end

    it 'sees which of two disks is started' do
      real_start!
      other = initrd_disk
      before = [Evrel::Startup::Emulator::Drive.new(path: other, format: 'raw', controller: :nvme)]
      expect(described_class.new(disk, format: 'raw',
                                       beside: { before: }).run).to have_attributes(outcome: :reached, from: 0,
                                                                                    lines: include(/TKT-11 login/))
    end

    it 'ends at its time limit, and leaves no process behind' do
      result = described_class.new(disk, format: 'raw', expect: 'never this', limit: 1.5).run
      expect(result).to have_attributes(outcome: :stuck, message: /never this/)
      expect(`pgrep -f #{disk}`).to be_empty
    end

    it 'ends when it is asked to' do
      expect(described_class.new(disk, format: 'raw').run { :stop }).to have_attributes(outcome: :stopped)
    end

    it 'says so where the machine has no emulator' do
      trial = described_class.new(disk, format: 'raw')
      stub_const('Evrel::Tool::ENVIRONMENT', Evrel::Tool::ENVIRONMENT.merge('PATH' => @folder))
      expect(trial.run).to have_attributes(outcome: :unavailable, message: /lacks qemu-system-x86_64/)
    end

    it 'says why an image cannot be opened' do
      File.write(file('no.qcow2'), 'no image at all')
      expect { described_class.new(file('no.qcow2'), format: 'qcow2').run }.to raise_error(Evrel::Unreadable, /cannot open/)
    end
  end
end
