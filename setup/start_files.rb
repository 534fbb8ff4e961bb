# frozen_string_literal: true

require 'tmpdir'

module Setup
  # A kernel with modules, and loaders, for the demo's disks and the tests',
  # taken out of Debian's packages without installing them.
  module StartFiles
    FOLDER = File.join(ROOT, 'var', 'cache', 'start-files')
    KERNEL = 'linux-image-cloud-amd64'
    LOADERS = %w[systemd-boot-efi shim-signed grub-efi-amd64-signed].freeze
    PATHS = { 'vmlinuz' => 'boot/vmlinuz-*', 'systemd-bootx64.efi' => 'usr/lib/systemd/boot/efi/systemd-bootx64.efi',
              'shimx64.efi' => 'usr/lib/shim/shimx64.efi.signed', 'grubx64.efi' => 'usr/lib/grub/x86_64-efi-signed/grubx64.efi.signed',
              'linuxx64.efi.stub' => 'usr/lib/systemd/boot/efi/linuxx64.efi.stub' }.freeze
    # What a disk may hang on; the rest of the modules would only take room.
    MODULES = %w[modules.builtin modules.builtin.modinfo modules.order kernel/drivers/ata kernel/drivers/scsi kernel/drivers/block
                 kernel/drivers/virtio kernel/drivers/net/virtio_net.ko kernel/net/core kernel/lib kernel/block kernel/crypto
                 kernel/drivers/cdrom].freeze

    module_function

    def fetch
      return :nothing if [*PATHS.keys, 'modules'].all? { |name| File.exist?(File.join(FOLDER, name)) }

      FileUtils.mkdir_p(FOLDER)
      Dir.mktmpdir('evrel-start-files') do |work|
        FileUtils.chmod(0o755, work) # apt downloads as a user of its own
        download(work)
        PATHS.each { |name, pattern| FileUtils.cp(Dir[File.join(work, 'files', pattern)].first, File.join(FOLDER, name)) }
        modules(work)
      end
    end

    def download(work)
      Packages.apt('update', '-qq') if kernel_package.nil?
      Setup.run('apt-get', 'download', '-qq', kernel_package.to_s, *LOADERS, dir: work, hint: 'is the package registry reachable?')
      Dir[File.join(work, '*.deb')].each { |package| Setup.run('dpkg', '-x', package, File.join(work, 'files')) }
    end

    # As they lie below /lib/modules, with the lists that depmod makes when a kernel is installed.
    def modules(work)
      from = Dir[File.join(work, 'files', 'lib/modules/*')].first
      base = File.join(work, 'tree')
      to = File.join(base, 'lib/modules', File.basename(from))
      MODULES.select { |name| File.exist?(File.join(from, name)) }.each do |name|
        FileUtils.mkdir_p(File.dirname(File.join(to, name)))
        FileUtils.cp_r(File.join(from, name), File.join(to, name))
      end
      Setup.run('depmod', '-b', base, File.basename(from))
      FileUtils.rm_rf(File.join(FOLDER, 'modules'))
      FileUtils.cp_r(File.join(base, 'lib/modules'), File.join(FOLDER, 'modules'))
    end

    # The meta package depends on the one that holds the kernel.
    def kernel_package
      output, = Open3.capture2('apt-cache', 'depends', KERNEL)
      output[/Depends: (linux-image-\S+)/, 1]
    end
  end
end
