# frozen_string_literal: true

module Evrel
  module Startup
    # Whether the kernel that is started finds its own modules, and can mount
    # what the system needs mounted.
    class ModuleSteps
      # What fstab calls a file system → the module that serves it, where that has another name.
      SERVED = { 'ext2' => 'ext4', 'ext3' => 'ext4', 'msdos' => 'vfat', 'ntfs' => 'ntfs3' }.freeze

      # @param walk [Walk]
      # @param choice [Choice]
      # @param version [String, nil] of the kernel
      # @param ramdisk [Ramdisk, nil]
      def initialize(walk, choice, version, ramdisk)
        @walk = walk
        @choice = choice
        @version = version
        @ramdisk = ramdisk
      end

      # @param files [SystemFiles]
      # @param mounts [Mounts]
      def take(files, mounts)
        return unless @version

        @modules = KernelModules.of(files, @version)
        @needed = mounts.there? ? mounts.entries.reject { |entry| entry.where == '/' || entry.by_hand? || !entry.needed? } : []
        return without(files) unless @modules

        lacking = @needed.reject { |entry| served?(entry.kind) }
        return missing(lacking) if lacking.any?

        @walk.ok('modules', 'The kernel finds its modules', "#{@modules.folder}: what #{Mounts::PATH} lists can be mounted",
                 @modules.folder)
      end

      private

      # What is not looked for by a program of its own is served by the kernel.
      def served?(kind) = kind == 'auto' || kind.start_with?('fuse') || @modules.known?(SERVED.fetch(kind, kind)) || @modules.known?(kind)

      def missing(entries)
        entry = entries.first
        @walk.no('modules', "The kernel cannot mount #{entry.where}",
                 "It has no module #{entry.kind}, which #{Mounts::PATH} asks for in line #{entry.line}: the start ends in a rescue shell",
                 @modules.folder, remedy: 'Put the modules back from the image, or take the line out')
      end

      # A kernel that brings no modules along in its ramdisk may need none.
      def without(files)
        return unless @ramdisk&.modules&.any?

        folder = "#{KernelModules::FOLDERS.first}/#{@version}"
        others = @needed.map(&:kind).uniq - [root_kind]
        words = "#{folder} is not there#{'; another kernel has its own' if files.exist?(KernelModules::FOLDERS.first)}"
        if others.any?
          return @walk.no('modules', 'The kernel does not find its modules', "#{words}: #{others.join(', ')} cannot be mounted", folder,
                          remedy: 'Put the modules back from the image, or start another kernel')
        end

        @walk.ask('modules', 'The kernel does not find its modules', "#{words}: it starts without most of its drivers", folder,
                  remedy: 'Put the modules back from the image, or start another kernel')
      end

      def root_kind = @walk.places.find(@choice.root.to_s)&.then { |part| @walk.places.volume(part).kind }
    end
  end
end
