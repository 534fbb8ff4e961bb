# frozen_string_literal: true

require 'tmpdir'

module Setup
  # A kernel and a loader for the demo's disks, taken out of Debian's packages
  # without installing them.
  module StartFiles
    FOLDER = File.join(ROOT, 'var', 'cache', 'start-files')
    KERNEL = 'linux-image-cloud-amd64'
    LOADER = 'systemd-boot-efi'
    PATHS = { 'vmlinuz' => 'boot/vmlinuz-*', 'systemd-bootx64.efi' => 'usr/lib/systemd/boot/efi/systemd-bootx64.efi' }.freeze

    module_function

    def fetch
      return :nothing if PATHS.keys.all? { |name| File.exist?(File.join(FOLDER, name)) }

      FileUtils.mkdir_p(FOLDER)
      Dir.mktmpdir('evrel-start-files') do |work|
        FileUtils.chmod(0o755, work) # apt downloads as a user of its own
        download(work)
        PATHS.each { |name, pattern| FileUtils.cp(Dir[File.join(work, 'files', pattern)].first, File.join(FOLDER, name)) }
      end
    end

    def download(work)
      Packages.apt('update', '-qq') if kernel_package.nil?
      Setup.run('apt-get', 'download', '-qq', kernel_package.to_s, LOADER, dir: work, hint: 'is the package registry reachable?')
      Dir[File.join(work, '*.deb')].each { |package| Setup.run('dpkg', '-x', package, File.join(work, 'files')) }
    end

    # The meta package depends on the one that holds the kernel.
    def kernel_package
      output, = Open3.capture2('apt-cache', 'depends', KERNEL)
      output[/Depends: (linux-image-\S+)/, 1]
    end
  end
end
