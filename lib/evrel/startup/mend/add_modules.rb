# frozen_string_literal: true

require 'fileutils'
require 'tmpdir'

module Evrel
  module Startup
    module Mend
      # Modules that lie in the system, into its initial ramdisk: an archive
      # behind those that are there, with the modules, all that they need, the
      # lists of which is where (made by depmod(8)), and the list of what is loaded.
      class AddModules
        include Mend

        LISTS = %w[modules.dep modules.dep.bin modules.alias modules.alias.bin modules.symbols modules.symbols.bin modules.builtin
                   modules.builtin.bin modules.builtin.alias.bin modules.softdep modules.order modules.devname].freeze
        COPIED = %w[modules.builtin modules.builtin.modinfo modules.order].freeze
        # Where initramfs-tools and systemd look for what they load.
        LOADED = { 'conf/modules' => '', 'etc/modules-load.d/restored.conf' => '' }.freeze
        LARGEST = 512 * MIB

        # @return [Draft]
        # @raise [Refused] where the start needs no ramdisk, or a module is not in the system
        def draft
          @choice = choice
          part, path = @choice.initrds.last || raise(Refused.new('the kernel starts without an initial ramdisk', where: @choice.where))
          @ramdisk = Ramdisk.read(@context.places.volume(part), path)
          modules
          whole = @context.places.head(part, path, LARGEST)
          whole << ("\0" * (-whole.bytesize % 512)) << archive
          pieces = edited(part) { |editor| editor.put(path, whole) }
          draft_of(pieces, title: "Add #{wanted.join(', ')} to the initial ramdisk", before: "#{@ramdisk.modules.size} modules in #{path}",
                           after: "#{(@ramdisk.modules | @files.map do |file|
                             Ramdisk.module_name(file)
                           end).size} modules, #{wanted.join(', ')} among them")
        end

        private

        def wanted = Array(@context.about.fetch(:modules))

        # What the loader starts, as the chain finds it.
        def choice
          computer = Computer.from({ 'firmware' => table.partitions.any? { |part| part.type == UefiPath::ESP } ? 'uefi' : 'bios' })
          found = nil
          Walk.new(disk, computer).run { |walk| found = Startup.chosen(walk) }
          found.is_a?(Choice) ? found : raise(Refused.new('what is started cannot be told', where: 'start-up chain'))
        end

        def modules
          root = @context.places.find(@choice.root.to_s) or raise NotFound.new('the root is not on this disk', where: @choice.root)
          @volume = @context.places.volume(root)
          @modules = KernelModules.of(@volume, @context.about[:version]) or
            raise NotFound.new("the system has no modules for kernel #{@context.about[:version]}", where: KernelModules::FOLDERS.first)
          @files = wanted.flat_map { |name| files_of(name) }.uniq
        end

        def files_of(name)
          files = @modules.files(name)
          files.any? ? files : raise(NotFound.new("module #{name} is not in the system", where: @modules.folder))
        end

        def archive
          Dir.mktmpdir('evrel-modules') do |folder|
            stage(folder)
            said = Tool.run('depmod', '-b', folder, @modules.version, write: [folder])
            raise Damaged.new("depmod refuses: #{said.text.scrub.strip}", where: 'modules') unless said.success?

            Cpio.pack(directories + packed(folder))
          end
        end

        # All that will be in the ramdisk: the lists replace those that are there.
        def stage(folder)
          there = @ramdisk.names.keys.grep(Ramdisk::MODULE).map { |name| "/#{name.delete_prefix('usr/')}" }
          (there | @files | COPIED.map { |name| "#{@modules.folder}/#{name}" }).each do |path|
            Linux::Beneath.write(folder, path.delete_prefix('/usr'), @volume.file_head(path, LARGEST))
          rescue NotFound
            next # the ramdisk is of another state than the system: what is not there cannot be listed
          end
        end

        def base = "lib/modules/#{@modules.version}"

        # The folders of a ramdisk whose /lib is a link are there already, behind the link.
        def prefix = @ramdisk.names.key?('usr/lib') && !@ramdisk.names.key?("lib/modules/#{@modules.version}") ? 'usr/' : ''

        def directories
          @files.map do |path|
            ::File.dirname("#{prefix}#{path.delete_prefix('/usr').delete_prefix('/')}")
          end.push('conf', 'etc/modules-load.d')
                .flat_map { |path| path.split('/').each_index.map { |index| path.split('/')[0..index].join('/') } }.uniq
                .reject { |path| @ramdisk.names.key?(path) }.map { |path| [path, :directory, ''] }
        end

        def packed(folder)
          files = @files.map { |path| path.delete_prefix('/usr').delete_prefix('/') } + LISTS.map { |name| "#{base}/#{name}" }
          files.select do |path|
            ::File.exist?("#{folder}/#{path}")
          end.map { |path| ["#{prefix}#{path}", :file, ::File.binread("#{folder}/#{path}")] } + lists
        end

        # What was loaded stays so.
        def lists
          LOADED.keys.map { |name| [name, :file, "#{[@ramdisk.lists.fetch(name, '').strip, *wanted].reject(&:empty?).join("\n")}\n"] }
        end
      end
    end
  end
end
