# frozen_string_literal: true

module Evrel
  module Startup
    # Whether the kernel can drive the computer's hardware: the storage
    # controller first, since without it there is no root; then network and
    # graphics.
    class HardwareSteps
      NAMES = { storage: 'storage controller', network: 'network', graphics: 'graphics' }.freeze

      # @param walk [Walk]
      # @param volume [Volume] the root
      # @param version [String, nil] of the kernel
      # @param ramdisk [Ramdisk, nil]
      def initialize(walk, volume, version, ramdisk)
        @walk = walk
        @volume = volume
        @version = version
        @ramdisk = ramdisk
      end

      def take
        @hardware = @walk.computer.hardware
        return unless @hardware && @volume.browsable?

        @modules = KernelModules.of(@volume, @version)
        return none unless @modules

        storage
        %i[network graphics].each { |role| other(role) }
      end

      private

      def none
        @walk.ask(
          'storage', 'Whether the kernel can drive this computer is not known',
          "The system has no list of modules for kernel #{@version || 'of an unknown version'}", KernelModules::FOLDERS.first,
          remedy: 'Use the trial start with this computer’s controller'
        )
      end

      def storage
        devices = @hardware.of(:storage)
        return if devices.empty?

        lacking = devices.map { |device| [device, lack(device)] }
        good = lacking.find { |_, lack| lack.nil? }
        return driven(good.first) if good && lacking.all? { |_, lack| lack.nil? }

        device, lack = lacking.find { |_, one| one }
        good ? unsure(device, lack) : refused(device, lack)
      end

      # Storage must be there before the root is.
      # @return [Array(Symbol, Array<String>), nil] nil where it is driven; else why not, and modules
      def lack(device)
        found = device.aliases.filter_map { |modalias| lack_of(modalias) }
        found.find { |why, _| why != :left_out } || (found.any? ? [:left_out, found.flat_map(&:last)] : nil)
      end

      def lack_of(modalias)
        names = @modules.for(modalias)
        return [:unknown, []] if names.empty?
        return if names.any? { |name| @modules.builtin?(name) || @ramdisk&.modules&.include?(name.tr('-', '_')) }

        there = names.find { |name| @modules.there?(name) }
        [there ? :left_out : :missing, [there || names.first]]
      end

      def driven(device)
        @walk.ok('storage', 'The kernel can drive the storage controller', "#{device.word}: #{device.aliases.flat_map do |one|
          @modules.for(one).first(1)
        end.join(', ')}", evidence(device))
      end

      # With several controllers it is not known on which of them the disk will hang.
      def unsure(device, lack)
        @walk.ask('storage', 'The kernel cannot drive every storage controller', "#{device.word}: #{words(lack)}", evidence(device),
                  **mend(lack))
      end

      def refused(device, lack)
        @walk.broken('storage', 'The kernel cannot drive the storage controller', "#{device.word}: #{words(lack)}", evidence(device),
                     **mend(lack))
      end

      def words(lack)
        case lack.first
        when :unknown then 'no module of this kernel serves it'
        when :missing then "module #{lack.last.first} would, but the system does not have it"
        else "#{named(lack)} in the system, but not in the initial ramdisk"
        end
      end

      def mend(lack)
        return { remedy: 'Choose another image, or put the disk on another controller' } unless lack.first == :left_out
        return { remedy: 'Give the entry an initial ramdisk: the kernel starts without one' } unless @ramdisk

        { remedy: "Add #{lack.last.join(' and ')} to the initial ramdisk", mend: 'add-modules',
          about: { modules: lack.last, version: @version } }
      end

      def named(lack) = lack.last.size == 1 ? "module #{lack.last.first} is" : "modules #{lack.last.join(' and ')} are"

      # What can be loaded once the root is there.
      def other(role)
        @hardware.of(role).each do |device|
          names = @modules.for(device.modalias)
          if names.any? { |name| @modules.builtin?(name) || @modules.there?(name) }
            @walk.ok(role.to_s, "The system has a driver for #{device.word}", names.first, evidence(device))
          else
            @walk.ask(
              role.to_s, "The system has no driver for the #{NAMES.fetch(role)}", "#{device.word}: it starts without it",
              evidence(device),
              remedy: 'Install a driver once it runs'
            )
          end
        end
      end

      def evidence(device) = "#{device.modalias}, #{@modules.folder}/modules.alias"
    end
  end
end
