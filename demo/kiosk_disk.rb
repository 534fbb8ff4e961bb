# frozen_string_literal: true

require_relative 'starting_disk'

module Demo
  # A card that really starts by BIOS: an MBR with a loader in the gap behind
  # it, an active system part, and logical parts for data and swap.
  class KioskDisk
    MIB = 1024**2
    GRUB = '/usr/lib/grub/i386-pc'
    MODULES = %w[biosdisk part_msdos ext2 normal linux serial terminal].freeze
    SYSTEM_MIB = 240
    DATA_MIB = 200
    SWAP_MIB = 64
    # Offsets of the loader's own fields (boot/i386/pc/boot.S and diskboot.S of GRUB):
    KERNEL_SECTOR = 0x5C  # in sector 0: where the core begins
    BLOCK_LIST = 0x1F4    # in the core's first sector: where its rest lies

    # @param path [String] the disk's file, already of its size
    # @param signature [String] 8 hexadecimal digits, the disk's identity
    def initialize(path, host:, signature:, start_files:, files: {}, at: Time.now)
      @path = path
      @host = host
      @signature = signature
      @start_files = start_files
      @files = files
      @at = at
    end

    def build
      Dir.mktmpdir('evrel-demo') do |work|
        @work = work
        partition
        write_system
        write_data
        write_loader
      end
    end

    private

    def partition
      Demo.run('sfdisk', '-q', @path, input: <<~SCRIPT)
        label: dos
        label-id: 0x#{@signature}
        start=2048, size=#{SYSTEM_MIB * 2048}, type=83, bootable
        size=#{(DATA_MIB + SWAP_MIB + 8) * 2048}, type=5
        start=#{logical_start / 512}, size=#{DATA_MIB * 2048}, type=83
        start=#{(logical_start / 512) + ((DATA_MIB + 1) * 2048)}, size=#{SWAP_MIB * 2048}, type=82
      SCRIPT
    end

    def logical_start = (1 + SYSTEM_MIB + 1) * MIB

    def write_system
      root = "#{@work}/root"
      Demo.small_system(root, host: @host, fstab: "PARTUUID=#{@signature}-01 / ext4 defaults 0 1\nLABEL=journeys /srv ext4 noauto 0 2\n")
      FileUtils.cp("#{@start_files}/vmlinuz", "#{root}/boot/vmlinuz")
      Demo.lists_of_modules(root, @start_files)
      FileUtils.mkdir_p("#{root}/boot/grub")
      File.write("#{root}/boot/grub/grub.cfg", <<~CFG)
        set timeout=0
        menuentry "Kiosk #{@host}" {
          linux /boot/vmlinuz root=PARTUUID=#{@signature}-01 rw console=ttyS0 console=tty0
        }
      CFG
      Demo.make_ext4(@path, root, start: MIB, bytes: SYSTEM_MIB * MIB, label: 'kiosk', at: @at)
    end

    def write_data
      root = "#{@work}/data"
      FileUtils.mkdir_p(root)
      Demo.write_files(root, @files)
      Demo.make_ext4(@path, root, start: logical_start, bytes: DATA_MIB * MIB, label: 'journeys', at: @at)
    end

    # boot.img in front, with the disk's table left as it is, and the core behind it.
    def write_loader
      core = "#{@work}/core.img"
      Demo.run('grub-mkimage', '-O', 'i386-pc', '-o', core, '-p', '(hd0,msdos1)/boot/grub', *MODULES)
      boot = File.binread("#{GRUB}/boot.img")
      bytes = File.binread(core)
      sectors = (bytes.bytesize + 511) / 512
      boot[KERNEL_SECTOR, 8] = [1].pack('Q<')
      bytes[BLOCK_LIST, 12] = [2, sectors - 1, 0x820].pack('Q<vv')
      File.open(@path, 'r+b') do |io|
        io.pwrite(boot.byteslice(0, 440), 0)
        io.pwrite(bytes, 512)
      end
    end
  end
end
