# frozen_string_literal: true

require 'fileutils'
require 'tmpdir'

module Evrel
  module Startup
    # Whether this machine's own processor can run the emulated one: the device
    # may be there, and hang as soon as more than a BIOS runs. A start of the UEFI
    # firmware without a disk shows it, once for each process; whoever starts many
    # processes tells them by the environment what was found: EVREL_KVM is yes or no.
    module Kvm
      DEVICE = '/dev/kvm'
      PATIENCE = 5 # seconds until the firmware has spoken
      SPOKEN = 'BdsDxe:'
      LOCK = Mutex.new
      private_constant :LOCK

      module_function

      # @return [Boolean]
      def works?
        LOCK.synchronize { @works = @works.nil? ? found : @works }
      end

      def found
        told = ENV.fetch('EVREL_KVM', nil)
        %w[yes no].include?(told) ? told == 'yes' : ::File.writable?(DEVICE) && tried
      end

      def tried
        Dir.mktmpdir('evrel-kvm') do |folder|
          log = ::File.join(folder, 'said')
          code, variables = Emulator::FIRMWARE.fetch(false).map { |name| ::File.join(Emulator::FOLDER, name) }
          FileUtils.cp(variables, ::File.join(folder, 'variables'))
          flash = ["unit=0,readonly=on,file=#{code}", "unit=1,file=#{folder}/variables"]
          machine = Tool.start(Emulator::QEMU, '-machine', 'q35,accel=kvm', '-cpu', 'max', '-m', '256',
                               '-nodefaults', '-nic', 'none', '-display', 'none', '-serial', "file:#{log}",
                               *flash.flat_map { |one| ['-drive', "if=pflash,format=raw,#{one}"] },
                               write: [folder], devices: [DEVICE], redirections: { in: :close, %i[out err] => ::File::NULL })
          spoken?(machine, log)
        ensure
          Linux::Death.of(machine) if machine
        end
      rescue SystemCallError, Unsupported
        false
      end

      def spoken?(machine, log)
        deadline = now + PATIENCE
        until now > deadline || Process.wait(machine, Process::WNOHANG)
          return true if ::File.exist?(log) && ::File.read(log).include?(SPOKEN)

          sleep 0.1
        end
        false
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
      private_class_method :found, :tried, :spoken?, :now
    end
  end
end
