# frozen_string_literal: true

module Evrel
  module Startup
    # The modules of one kernel in a system: which are built in, which serve a
    # device, and which each of them needs (kmod's depmod(8): modules.builtin,
    # modules.alias, modules.dep, modules.builtin.modinfo).
    class KernelModules
      FOLDERS = %w[/lib/modules /usr/lib/modules].freeze
      LARGEST = 16 * MIB # bytes of each list

      # @param volume [Volume] browsable
      # @param version [String, nil] as `uname -r` says it
      # @return [KernelModules, nil] nil where the system has none for that kernel
      def self.of(volume, version)
        return unless version

        folder = FOLDERS.map do |path|
          "#{path}/#{version}"
        end.find { |path| volume.exist?("#{path}/modules.dep") || volume.exist?("#{path}/modules.builtin") }
        folder && new(volume, folder, version)
      end

      attr_reader :folder, :version

      def initialize(volume, folder, version)
        @volume = volume
        @folder = folder
        @version = version
      end

      # Which module of Linux serves devices of a standard kind, by their PCI class: what is built in leaves no alias behind.
      STANDARD = { 'bc01sc08i02' => 'nvme', 'bc01sc06i01' => 'ahci', 'bc0Csc03i30' => 'xhci_pci' }.freeze

      # @return [Array<String>] names of modules that serve a device
      def for(modalias)
        standard = STANDARD[modalias[/bc\h\hsc\h\hi\h\h/]]
        aliases.select { |pattern, _| ::File.fnmatch?(pattern, modalias) }.map(&:last) | [*(standard if standard && known?(standard))]
      end

      # @return [Boolean] whether the kernel has such a module, built in or not
      def known?(name) = builtin?(name) || there?(name)

      # @return [Boolean]
      def builtin?(name) = builtin.include?(name.tr('-', '_'))

      # @param name [String]
      # @return [Array<String>] paths of the files of a module and of all that it needs, in the order in which they are loaded;
      #   empty where it is built in or not there
      def files(name)
        wanted = name.tr('-', '_')
        path, needed = dependencies.find { |file, _| Ramdisk.module_name(file) == wanted }
        path ? [*needed.reverse, path].uniq.map { |file| "#{folder}/#{file}" } : []
      end

      # @return [Boolean] whether its file is there
      def there?(name) = files(name).any?

      private

      def builtin = @builtin ||= text('modules.builtin').each_line.to_set { |line| Ramdisk.module_name(line.strip) }

      # Of built-in modules the aliases stand in a list of their own, as "name.alias=pattern", each ended by a zero.
      def aliases
        @aliases ||= text('modules.alias').each_line.filter_map { |line| line.match(/\Aalias ((?:pci|virtio):\S+) (\S+)/)&.captures } +
                     text('modules.builtin.modinfo').split("\0").filter_map do |one|
                       one.match(/\A(\S+?)\.alias=((?:pci|virtio):\S+)/)&.captures&.reverse
                     end
      end

      def dependencies
        @dependencies ||= text('modules.dep').each_line.filter_map do |line|
          file, needed = line.strip.split(':', 2)
          [file, needed.split] if needed
        end
      end

      def text(name)
        @volume.file_head("#{folder}/#{name}", LARGEST).force_encoding('UTF-8').scrub
      rescue NotFound
        ''
      end
    end
  end
end
