# frozen_string_literal: true

require_relative '../../demo/starting_disk'
require_relative 'starting_disks'

# Disks whose kernel is started through GRUB and an initial ramdisk that loads
# modules, as most systems are: UEFI or BIOS, small, made once for the whole run.
module InitrdDisks
  SIZE = 640 * (1024**2)
  ESP_MIB = 64
  ROOT_START = (1 + ESP_MIB) * (1024**2)
  ROOT_MIB = 480
  DATA_START = ROOT_START + (ROOT_MIB * (1024**2))
  DATA_MIB = 48
  IDS = { disk: '7a1c0de0-5b64-4c39-8f0e-6d2b19c4e801', esp: '7a1c0de0-5b64-4c39-8f0e-6d2b19c4e802',
          system: '7a1c0de0-5b64-4c39-8f0e-6d2b19c4e803', uuid: '7a1c0de0-5b64-4c39-8f0e-6d2b19c4e804',
          data: '7a1c0de0-5b64-4c39-8f0e-6d2b19c4e805', data_uuid: '7a1c0de0-5b64-4c39-8f0e-6d2b19c4e806' }.freeze
  SIGNATURE = '5eaf00d1'
  MODULES = File.join(StartingDisks::FILES, 'modules')
  VERSION = Dir.children(MODULES).first
  # Of GRUB; what it needs to find and start the kernel is built in.
  EFI = %w[part_gpt fat ext2 normal linux search search_fs_uuid search_label echo test configfile].freeze
  BIOS = %w[biosdisk part_msdos ext2 normal linux search search_fs_uuid search_label test configfile serial terminal].freeze

  INIT = <<~SH
    #!/bin/sh
    mount -t proc proc /proc
    mount -t sysfs sysfs /sys
    mount -t devtmpfs dev /dev
    for name in $(cat /conf/modules); do modprobe $name; done
    for word in $(cat /proc/cmdline); do case $word in root=*) root=${word#root=} ;; esac; done
    for try in 1 2 3 4 5 6 7 8 9 10; do
      case $root in
        *=*) device=$(findfs $root) ;;
        *) device=$root ;;
      esac
      [ -b "$device" ] && mount -t ext4 -o rw "$device" /root && exec switch_root /root /sbin/init
      sleep 0.3
    done
    echo "no root $root: rescue shell"
    exec sh
  SH

  # What is mounted by hand in the small system: without it there is no log-in.
  RC = <<~SH
    grep -v '^#' /etc/fstab | while read spec where kind options rest; do
      case $options in *noauto*) continue ;; esac
      [ $where = / ] && continue
      case $spec in PARTUUID=*) ;; *=*) spec=$(findfs $spec) ;; esac
      mkdir -p $where
      mount -t $kind "$spec" $where && continue
      case $options in *nofail*) ;; *) touch /tmp/failed ;; esac
    done
    [ -e /tmp/failed ] && echo "emergency mode: what fstab names is not there" && exec sleep 600
    true
  SH

  # @param firmware [Symbol] :uefi or :bios
  # @param loaded [Array<String>] modules that the ramdisk has and loads
  # @return [String] a copy that the example may spoil
  def initrd_disk(firmware = :uefi, loaded: %w[virtio_pci virtio_blk], name: "#{firmware}.raw")
    made_once("initrd-#{firmware}-#{loaded.join('-')}", name) { |made| Maker.new(self, file(made), firmware, loaded).make }
  end

  # Puts one together.
  class Maker
    MIB = 1024**2

    def initialize(spec, path, firmware, loaded)
      @spec = spec
      @path = path
      @firmware = firmware
      @loaded = loaded
    end

    def make
      Dir.mktmpdir('evrel-initrd') do |work|
        @work = work
        Evrel::Disk::File.create(@path, SIZE)
        partition
        uefi? ? startup_part : boot_sector
        system_part
        data_part
      end
    end

    private

    def uefi? = @firmware == :uefi

    def partition
      run('sfdisk', '-q', @path, input: uefi? ? gpt : mbr)
    end

    def gpt
      "label: gpt\nlabel-id: #{IDS[:disk]}\nstart=2048, size=#{ESP_MIB * 2048}, type=U, uuid=#{IDS[:esp]}, name=\"Start-up\"\n" \
        "size=#{ROOT_MIB * 2048}, type=4F68BCE3-E8CD-4DB1-96E7-FBCAF984B709, uuid=#{IDS[:system]}, name=\"System\"\n" \
        "size=#{DATA_MIB * 2048}, type=L, uuid=#{IDS[:data]}, name=\"Data\"\n"
    end

    def mbr
      "label: dos\nlabel-id: 0x#{SIGNATURE}\nstart=2048, size=65536, type=83\n" \
        "start=#{ROOT_START / 512}, size=#{ROOT_MIB * 2048}, type=83, bootable\nsize=#{DATA_MIB * 2048}, type=83\n"
    end

    def startup_part
      volume = "#{@work}/esp"
      File.open(volume, 'w') { |io| io.truncate(ESP_MIB * MIB) }
      run('mkfs.vfat', '-F', '32', '-n', 'STARTUP', volume)
      run('mmd', '-i', volume, '::EFI', '::EFI/BOOT')
      run('grub-mkimage', '-O', 'x86_64-efi', '-o', "#{@work}/grub.efi", '-p', '/EFI/BOOT', *EFI)
      run('mcopy', '-i', volume, "#{@work}/grub.efi", '::EFI/BOOT/BOOTX64.EFI')
      File.write("#{@work}/grub.cfg", "search.fs_uuid #{IDS[:uuid]} root\nset prefix=($root)/boot/grub\nconfigfile $prefix/grub.cfg\n")
      run('mcopy', '-i', volume, "#{@work}/grub.cfg", '::EFI/BOOT/grub.cfg')
      run('dd', "if=#{volume}", "of=#{@path}", 'bs=1M', 'seek=1', 'conv=notrunc,sparse', 'status=none')
    end

    # The same code and core as the demo's cards have.
    def boot_sector
      core = "#{@work}/core.img"
      run('grub-mkimage', '-O', 'i386-pc', '-o', core, '-p', '(hd0,msdos2)/boot/grub', *BIOS)
      boot = File.binread('/usr/lib/grub/i386-pc/boot.img')
      bytes = File.binread(core)
      boot[0x5C, 8] = [1].pack('Q<')
      bytes[0x1F4, 12] = [2, ((bytes.bytesize + 511) / 512) - 1, 0x820].pack('Q<vv')
      File.open(@path, 'r+b') do |io|
        io.pwrite(boot.byteslice(0, 440), 0)
        io.pwrite(bytes, 512)
      end
    end

    def system_part
      root = "#{@work}/root"
      Demo.small_system(root, host: 'TKT-11', fstab:)
      File.write("#{root}/etc/rc", RC, mode: 'a')
      File.write("#{root}/etc/machine-id", "0123456789abcdef0123456789abcdef\n")
      FileUtils.mkdir_p("#{root}/boot/grub")
      FileUtils.cp("#{StartingDisks::FILES}/vmlinuz", "#{root}/boot/vmlinuz")
      FileUtils.mkdir_p("#{root}/lib")
      FileUtils.cp_r(MODULES, "#{root}/lib/modules")
      ramdisk("#{root}/boot/initrd")
      File.write("#{root}/boot/grub/grub.cfg", configuration)
      Demo.make_ext4(@path, root, start: ROOT_START, bytes: ROOT_MIB * MIB, label: 'System', uuid: IDS[:uuid])
    end

    def fstab
      esp = "PARTUUID=#{IDS[:esp]} /boot/efi vfat nofail 0 2\n" if uefi?
      "UUID=#{IDS[:uuid]} / ext4 defaults 0 1\nUUID=#{IDS[:data_uuid]} /srv ext4 defaults 0 2\n#{esp}"
    end

    def data_part
      root = "#{@work}/data"
      FileUtils.mkdir_p("#{root}/tickets")
      Demo.make_ext4(@path, root, start: DATA_START, bytes: DATA_MIB * MIB, label: 'Data', uuid: IDS[:data_uuid])
    end

    def configuration
      <<~CFG
        set default="0"
        set timeout=0
        if [ -s $prefix/grubenv ]; then
          load_env
        fi
        function starts {
          echo "Loading Linux"
        }
        menuentry 'Office' --class linux --id office {
          search --no-floppy --fs-uuid --set=root #{IDS[:uuid]}
          starts
          linux /boot/vmlinuz root=UUID=#{IDS[:uuid]} ro console=tty0 console=ttyS0
          initrd /boot/initrd
        }
        submenu 'More' {
          menuentry 'Rescue' {
            linux /boot/vmlinuz root=UUID=#{IDS[:uuid]} single
          }
        }
      CFG
    end

    # Packed by cpio and gzip, not by what is tested.
    def ramdisk(path)
      root = "#{@work}/initrd"
      %w[bin sbin proc sys dev root conf lib etc].each { |name| FileUtils.mkdir_p("#{root}/#{name}") }
      FileUtils.cp('/bin/busybox', "#{root}/bin/busybox")
      %w[sh mount cat sleep findfs modprobe switch_root echo grep cut].each { |name| File.symlink('busybox', "#{root}/bin/#{name}") }
      File.write("#{root}/init", INIT)
      File.chmod(0o755, "#{root}/init")
      File.write("#{root}/conf/modules", "#{@loaded.join("\n")}\n")
      modules(root)
      run('sh', '-c', "cd #{root} && find . | cpio --quiet -o -H newc | gzip -1 > #{path}")
    end

    def modules(root)
      to = "#{root}/lib/modules/#{VERSION}"
      needed = File.readlines("#{MODULES}/#{VERSION}/modules.dep", chomp: true).to_h { |line| line.split(':', 2) }
      wanted = @loaded.flat_map do |name|
        path = needed.keys.find { |one| File.basename(one, '.ko').tr('-', '_') == name }
        path ? [path, *needed[path].split] : []
      end
      wanted.uniq.each do |path|
        FileUtils.mkdir_p(File.dirname("#{to}/#{path}"))
        FileUtils.cp("#{MODULES}/#{VERSION}/#{path}", "#{to}/#{path}")
      end
      FileUtils.mkdir_p(to)
      %w[modules.builtin modules.order].each { |name| FileUtils.cp("#{MODULES}/#{VERSION}/#{name}", "#{to}/#{name}") }
      run('depmod', '-b', root, VERSION)
    end

    def run(...) = Demo.run(...)
  end
end

RSpec.configure { |config| config.include InitrdDisks }
