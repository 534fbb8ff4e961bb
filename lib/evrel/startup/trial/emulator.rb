# frozen_string_literal: true

require 'etc'
require 'fileutils'
require 'json'
require 'socket'

module Evrel
  module Startup
    # One computer in the emulator: its firmware, its disks on throw-away
    # overlays, its serial line and its screen. No network, bounded memory,
    # processors and files; system calls that a machine does not need end it.
    class Emulator
      QEMU = 'qemu-system-x86_64'
      FOLDER = '/usr/share/OVMF'
      # Code of the firmware and the variables that it begins with, without and with secure boot.
      FIRMWARE = { false => %w[OVMF_CODE_4M.fd OVMF_VARS_4M.fd], true => %w[OVMF_CODE_4M.secboot.fd OVMF_VARS_4M.ms.fd] }.freeze
      CONTROLLERS = %i[nvme sata virtio usb].freeze
      PROCESSORS = 2
      MOST_DISKS = 8
      SERIAL = 'trial' # and the place in the list
      MEMORY = 'memory-backend-memfd' # what the emulator names its memory
      # qemu(1), -sandbox: it starts no program, gets no rights, and sets no priorities.
      SANDBOX = 'on,obsolete=deny,elevateprivileges=deny,spawn=deny,resourcecontrol=deny'
      # Bytes of the largest file that it may write: an overlay that grows beyond that ends it.
      LARGEST = 16 * GIB
      # Of what it says the last is read; a line that floods gives its room back.
      HEARD = 4 * MIB
      FLOOD = 64 * MIB
      # Where a graphics card in text mode has its characters, and how many bytes of them there can be.
      TEXT = 0xB8000
      TEXT_BYTES = 32 * KIB
      # Names of keys as the control socket takes them.
      KEYS = /\A[a-z0-9_]{1,12}\z/

      ADDRESSES = 64 * GIB # what translating its code reserves, and its memory

      # A disk of it: path, format as the emulator names it, controller, bytes of its logical sectors.
      Drive = Struct.new(:path, :format, :controller, :sector, keyword_init: true)

      # @return [String, nil] why no start is possible on this machine
      def self.missing
        lacking = [QEMU, 'qemu-img', Tool::SANDBOX].reject { |program| Tool.there?(program) }
        lacking += FIRMWARE.values.flatten.map { |name| ::File.join(FOLDER, name) }.reject { |path| ::File.readable?(path) }
        "this machine lacks #{lacking.join(', ')}" unless lacking.empty?
      end

      # @param folder [String] of its own; overlays and sockets lie there
      # @param drives [Array<Drive>] in the order in which the firmware tries them
      # @param firmware [Symbol] :uefi or :bios
      # @param secure_boot [Boolean]
      # @param memory [Integer] MiB
      def initialize(folder, drives, firmware: :uefi, secure_boot: false, memory: 512)
        @folder = folder
        @drives = drives.first(MOST_DISKS)
        @firmware = firmware
        @secure_boot = secure_boot
        @memory = memory
      end

      # @raise [Unreadable] where a disk cannot be opened
      def start
        @drives.each_index { |index| lay_over(index) }
        @empty = overlay_sizes
        FileUtils.cp(::File.join(FOLDER, FIRMWARE.fetch(@secure_boot).last), file('vars.fd'))
        %w[serial firmware].each { |name| FileUtils.touch(file(name)) }
        @pid = Tool.start(QEMU, *arguments, **room, limits: { largest: LARGEST, memory: ADDRESSES },
                                                    redirections: { in: :close, out: file('log'), err: %i[child out], pgroup: true })
      end

      # @return [Boolean] whether it has ended by itself
      def ended?
        return true if @status || @pid.nil?

        @status = Process.wait2(@pid, Process::WNOHANG)&.last
        !@status.nil?
      end

      # The whole process group goes, whatever happened.
      def finish
        @reader&.kill
        [@line, @memory_file].compact.each(&:close)
        return unless @pid && !@status

        Process.kill(:KILL, -@pid)
        @status = Process.wait2(@pid).last
      rescue Errno::ESRCH, Errno::ECHILD
        nil
      end

      # @return [String] what was said on the serial line of late, without what moves the cursor
      def said = plain(heard(file('serial')))

      # @return [String] what a BIOS says to its log, and not on the serial line
      def firmware_said = plain(::File.binread(file('firmware'), 64 * KIB).to_s)

      # Which disk a UEFI firmware took its loader from, by the serial numbers that the disks have here; a BIOS, and a
      # controller that hides the number, take the first.
      # @return [Integer, nil] place in the list of disks; nil where none was started
      def loaded_from
        @started = said.scan(/BdsDxe: starting Boot\S+ "([^"]*)"/).last || @started or return (@firmware == :bios ? 0 : nil)
        @started.first[/#{SERIAL}(\d)/, 1].to_i
      end

      # Which of several disks the system runs from: a running system writes to its root, and loaders write to nothing.
      # @return [Integer, nil] place in the list of disks; nil where none was written to
      def most_written
        grown = overlay_sizes.zip(@empty).map { |now, before| now - before }
        most = grown.each_index.max_by { |index| grown[index] }
        most if most && grown[most].positive?
      end

      # @return [Integer] bytes that its disks have given and taken so far
      def disk_bytes = monitor.disk_bytes

      # @return [String] what the emulator itself complained of
      def log = ::File.exist?(file('log')) ? ::File.read(file('log'), 2000).to_s.strip : ''

      # @param path [String] where the PNG goes
      # @return [Boolean] whether it was taken
      def picture(path)
        return false unless monitor.picture(file('picture.png'))

        FileUtils.mv(file('picture.png'), path)
        true
      end

      # @return [Frame, nil] what its screen shows
      def frame = monitor.frame(file('frame')) ? Frame.read(file('frame')) : nil

      # Its memory; only what was ever used takes room.
      # @return [::File, nil]
      def memory
        place = Dir["/proc/#{Tool.program(@pid)}/fd/*"].find { |one| ::File.readlink(one).include?(MEMORY) } unless @memory_file
        @memory_file ||= place && ::File.open(place, 'rb')
      rescue SystemCallError
        nil # it has just ended
      end

      # @param bytes [Integer]
      # @return [String, nil] what a screen in text mode shows, two bytes for each character
      def text_mode(bytes)
        start = monitor.text_start
        return unless start && monitor.memory(TEXT, TEXT_BYTES, file('text'))

        ::File.binread(file('text')).then { |all| (all + all).byteslice(start * 2 % TEXT_BYTES, bytes) }
      end

      # @return [Float] that it has needed so far (proc(5), /proc/pid/stat, utime and stime)
      def processor_seconds
        ::File.read("/proc/#{Tool.program(@pid)}/stat").rpartition(')').last.split.values_at(11, 12).sum(&:to_f) / Etc.sysconf(Etc::SC_CLK_TCK)
      rescue SystemCallError
        0.0
      end

      # @param names [Array<String>] of keys that are pressed at the same time
      def press(names) = monitor.press(names.grep(KEYS))

      # A line on which nobody reads holds the machine up, and one that is closed at once loses what the machine has not
      # taken yet: so it stays open, and what comes is read and dropped. It is in the log all the same.
      # @param text [String] for the serial line
      def type(text)
        @line ||= UNIXSocket.new(file('line')).tap { |line| @reader = Thread.new { drop(line) } }
        @line.write(text)
      rescue SystemCallError, IOError
        @line = nil # it has just ended
      end

      private

      # Until the machine ends, at whatever byte that is.
      def drop(line)
        IO.copy_stream(line, ::File::NULL)
      rescue IOError, SystemCallError
        nil
      end

      # What it has said so far has its place in the file, so that one which was emptied begins with zeros that take no room.
      def heard(path)
        stat = ::File.stat(path)
        text = ::File.binread(path, HEARD, [stat.size - HEARD, 0].max).to_s
        ::File.truncate(path, 0) if Room.of(stat) > FLOOD
        text
      end

      def overlay_sizes = @drives.each_index.map { |index| ::File.size(file("disk-#{index}.qcow2")) }
      def monitor = @monitor ||= Monitor.new(file('qmp'))
      def file(name) = ::File.join(@folder, name)

      # Escape sequences move the cursor; they are no text.
      def plain(bytes) = bytes.dup.force_encoding('UTF-8').scrub('').gsub(/\e\[[0-9;?=]*[A-Za-z]/, '').delete("\r\e\0")

      def lay_over(index)
        drive = @drives[index]
        made = Tool.run('qemu-img', 'create', '-q', '-f', 'qcow2', '-b', "json:#{JSON.generate(below(drive))}", '-F', drive.format,
                        file("disk-#{index}.qcow2"), read: [drive.path], write: [@folder])
        raise Unreadable.new("the emulator cannot open #{drive.path}: #{made.text.scrub.strip}", where: drive.path) unless made.success?
      end

      # What the machine sees of this one.
      def room = { read: @drives.map(&:path), write: [@folder], devices: Kvm.works? ? [Kvm::DEVICE] : [] }

      # This file alone: whatever it says that it builds on is not opened.
      def below(drive)
        node = { driver: drive.format, file: { driver: 'file', filename: ::File.expand_path(drive.path) } }
        drive.format == 'qcow2' ? { **node, backing: nil } : node
      end

      # @return [Hash] what a disk of the machine is made of, as -blockdev takes it
      def graph(drive, index)
        { 'driver' => 'qcow2', 'node-name' => "disk#{index}", 'cache' => { 'direct' => false, 'no-flush' => true },
          'file' => { 'driver' => 'file', 'filename' => file("disk-#{index}.qcow2") }, 'backing' => { **below(drive), 'read-only': true } }
      end

      def arguments
        machine = "q35,accel=#{Kvm.works? ? 'kvm' : 'tcg'},memory-backend=memory#{',smm=on' if @secure_boot}"
        ['-machine', machine, '-object', "#{MEMORY},id=memory,size=#{@memory}M,share=on",
         '-cpu', 'max', '-m', @memory.to_s, '-smp', PROCESSORS.to_s, '-nodefaults',
         '-vga', 'std', '-sandbox', SANDBOX, *flash, *disks, '-nic', 'none', '-display', 'none',
         '-chardev', "socket,id=line,path=#{file('line')},server=on,wait=off,logfile=#{file('serial')}", '-serial', 'chardev:line',
         '-chardev', "file,id=firmware,path=#{file('firmware')}", '-device', 'isa-debugcon,iobase=0x402,chardev=firmware',
         '-qmp', "unix:#{file('qmp')},server=on,wait=off"]
      end

      # Without them the machine starts by its BIOS.
      def flash
        return [] unless @firmware == :uefi

        code = ::File.join(FOLDER, FIRMWARE.fetch(@secure_boot).first)
        [*(['-global', 'driver=cfi.pflash01,property=secure,value=on'] if @secure_boot),
         '-drive', "if=pflash,format=raw,unit=0,readonly=on,file=#{code}", '-drive', "if=pflash,format=raw,unit=1,file=#{file('vars.fd')}"]
      end

      def disks
        controllers = @drives.map(&:controller)
        shared = []
        shared.push('-device', 'ahci,id=sata') if controllers.include?(:sata)
        shared.push('-device', 'qemu-xhci,id=usb') if controllers.include?(:usb)
        shared + @drives.each_with_index.flat_map do |drive, index|
          ['-blockdev', JSON.generate(graph(drive, index)), '-device', device(drive, index)]
        end
      end

      def device(drive, index)
        common = "drive=disk#{index},bootindex=#{index + 1},serial=#{SERIAL}#{index}"
        sector = drive.sector || 512
        sizes = "logical_block_size=#{sector},physical_block_size=4096"
        case drive.controller
        when :sata then "ide-hd,bus=sata.#{@drives.first(index).count { |one| one.controller == :sata }},#{common}"
        when :virtio then "virtio-blk-pci,#{common},#{sizes}"
        when :usb then "usb-storage,bus=usb.0,#{common}"
        else "nvme,#{common},#{sizes}"
        end
      end
    end
  end
end
