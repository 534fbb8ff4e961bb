# frozen_string_literal: true

require 'fileutils'
require 'tmpdir'

module Evrel
  module Startup
    # Starts an image or a disk in the emulator, on a throw-away overlay: the
    # disk itself is opened read-only. Ends by itself: when the awaited text
    # appears on the serial line, when the emulator ends, at the time limit, or
    # when the caller stops it.
    class Trial
      QEMU = 'qemu-system-x86_64'
      CODE = '/usr/share/OVMF/OVMF_CODE_4M.fd'
      VARS = '/usr/share/OVMF/OVMF_VARS_4M.fd'
      PROMPT = /login:\s*\z/i
      LINES = 12
      EVERY = 0.25 # seconds between two looks at the serial line

      # outcome: :reached, :time_limit, :ended, :stopped or :unavailable; seconds until then;
      # lines: the last of the serial line; picture: path of a PNG, or nil;
      # message: what it means.
      Result = Struct.new(:outcome, :seconds, :lines, :picture, :message, keyword_init: true) do
        def started? = outcome == :reached
      end

      # @return [String, nil] why no trial start is possible on this machine
      def self.missing
        lacking = [QEMU, 'qemu-img'].reject { |program| program?(program) }
        lacking += [CODE, VARS].reject { |path| ::File.readable?(path) }
        "this machine lacks #{lacking.join(', ')}" unless lacking.empty?
      end

      def self.program?(name)
        ENV.fetch('PATH', '').split(':').any? { |folder| ::File.executable?(::File.join(folder, name)) }
      end

      # @param path [String] a raw disk or a qcow2 file
      # @param format [String] as the emulator names it: 'raw', 'qcow2', 'vdi' …
      # @param firmware [Symbol] :uefi or :bios
      # @param expect [Regexp, String] what on the serial line counts as started
      # @param limit [Numeric] seconds
      # @param memory [Integer] MiB
      # @param sector [Integer] bytes that the emulated drive counts in
      def initialize(path, format:, firmware: :uefi, expect: PROMPT, limit: 120, memory: 512, sector: 512)
        @path = ::File.expand_path(path)
        @format = format
        @firmware = firmware
        @expect = expect
        @limit = limit
        @memory = memory
        @sector = sector
      end

      # @param picture [String, nil] where the PNG of the screen goes
      # @yieldparam seconds [Float] since the start; a block that returns :stop ends the trial
      # @yieldparam lines [Array<String>] the last of the serial line
      # @return [Result]
      def run(picture: nil, &look)
        missing = self.class.missing
        if missing
          return Result.new(outcome: :unavailable, seconds: 0, lines: [], picture: nil,
                            message: "#{missing}: install the emulator to try a start; everything else works")
        end

        Dir.mktmpdir('evrel-trial') { |folder| watch(folder, picture, &look) }
      end

      private

      def watch(folder, picture, &)
        @folder = folder
        start
        outcome = wait(&)
        seconds = elapsed
        shot = picture if picture && outcome != :ended && Monitor.new(in_folder('qmp')).picture(picture)
        Result.new(outcome:, seconds:, lines: last_lines, picture: shot, message: message(outcome, seconds))
      ensure
        finish
      end

      def start
        overlay = in_folder('overlay.qcow2')
        made = system('qemu-img', 'create', '-q', '-f', 'qcow2', '-b', @path, '-F', @format, overlay, err: in_folder('log'))
        raise Unreadable.new("the emulator cannot open #{@path}: #{log}", where: @path) unless made

        FileUtils.cp(VARS, in_folder('vars.fd'))
        FileUtils.touch(in_folder('serial'))
        @started = now
        # setpriv: should this process be killed, the kernel ends the emulator too.
        @pid = spawn('setpriv', '--pdeathsig', 'KILL', QEMU, *arguments(overlay), in: :close, out: in_folder('log'),
                                                                                  err: %i[child out], pgroup: true)
      end

      def arguments(overlay)
        ['-machine', 'q35,accel=tcg', '-cpu', 'max', '-m', @memory.to_s, '-smp', '2', '-nodefaults', '-vga', 'std', *flash,
         '-drive', "if=none,id=disk,format=qcow2,cache=unsafe,file=#{overlay}",
         '-device', "nvme,drive=disk,serial=trial,logical_block_size=#{@sector},physical_block_size=4096",
         '-nic', 'none', '-display', 'none', '-no-reboot', '-serial', "file:#{in_folder('serial')}",
         '-qmp', "unix:#{in_folder('qmp')},server=on,wait=off"]
      end

      # Without them the machine starts by its BIOS.
      def flash
        return [] unless @firmware == :uefi

        ['-drive', "if=pflash,format=raw,unit=0,readonly=on,file=#{CODE}",
         '-drive', "if=pflash,format=raw,unit=1,file=#{in_folder('vars.fd')}"]
      end

      def wait
        loop do
          return :reached if reached?
          return :ended if ended?
          return :time_limit if elapsed > @limit
          return :stopped if block_given? && yield(elapsed, last_lines) == :stop

          sleep EVERY
        end
      end

      def reached?
        text = serial
        @expect.is_a?(Regexp) ? text.match?(@expect) : text.include?(@expect)
      end

      def ended?
        return true if @status

        @status = Process.wait2(@pid, Process::WNOHANG)&.last
        !@status.nil?
      end

      # The whole process group goes, whatever happened.
      def finish
        return unless @pid && !@status

        Process.kill(:KILL, -@pid)
        @status = Process.wait2(@pid).last
      rescue Errno::ESRCH, Errno::ECHILD
        nil
      end

      def message(outcome, seconds)
        case outcome
        when :reached then format('Reached “%<what>s” after %<seconds>.1f s', what: awaited, seconds:)
        when :time_limit then format('“%<what>s” did not appear within %<limit>d s', what: awaited, limit: @limit)
        when :stopped then 'Stopped'
        else "The emulator ended by itself: #{log.empty? ? 'the system switched off' : log}"
        end
      end

      def awaited = @expect == PROMPT ? 'log-in prompt' : @expect.to_s

      def serial
        bytes = ::File.binread(in_folder('serial'), 4 * MIB)
        # Escape sequences move the cursor; they are no text.
        (bytes || ''.b).force_encoding('UTF-8').scrub('').gsub(/\e\[[0-9;?=]*[A-Za-z]/, '').delete("\r\e\0")
      end

      def last_lines = serial.lines(chomp: true).map(&:rstrip).reject(&:empty?).last(LINES)
      def log = ::File.exist?(in_folder('log')) ? ::File.read(in_folder('log'), 2000).to_s.strip : ''
      def elapsed = now - @started
      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
      def in_folder(name) = ::File.join(@folder, name)
    end
  end
end
