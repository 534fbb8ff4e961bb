# frozen_string_literal: true

require 'io/wait'
require 'json'
require 'socket'
require 'tmpdir'

module RealSystems
  # A machine of its own in the emulator, driven over its serial line or its
  # keyboard. It knows nothing of what is tested.
  class Guest
    # One processor of the plainest kind: two of these machines beside each other take two thirds of the time of larger ones.
    QEMU = %w[qemu-system-x86_64 -machine q35,accel=tcg -cpu qemu64 -smp 1 -nodefaults -nic none -display none -no-reboot].freeze
    OVMF = '/usr/share/OVMF'
    # A start does not come back from these; nor where nothing is said for so long.
    DEAD = /Kernel panic|\(initramfs\) *\z|grub rescue>|grub> *\z|emergency mode|No bootable device|BdsDxe: No bootable option|Shell> *\z/
    QUIET = 420 # seconds
    # Nor from these, where the screen shows them for so long: firmware and loaders without UEFI say nothing elsewhere.
    DEAD_SCREEN = /No bootable device|from Hard Disk\.\.\.\z|GRUB loading\.\z|grub rescue>|grub>\z|error: |Kernel panic|emergency mode/
    STILL = 60 # seconds
    # Nor from these, which answer whatever is typed: of the initial ramdisk, the kernel and the loader.
    DEAD_SHELL = /\(initramfs\)|run-init: can't execute|No init found|can't find command/
    LOOK = 8
    # The memory of a screen in text mode: a character and its colour for each of 25 times 80 cells.
    SCREEN = [0xB8000, 4000].freeze
    # Nor where it does nothing besides: after so many seconds, in which it has worked for so few.
    IDLE = 60
    WORKED = 3
    KEYS = { ' ' => 'spc', '-' => 'minus', '/' => 'slash', '.' => 'dot', ';' => 'semicolon', "\n" => 'ret', '>' => %w[shift dot],
             '&' => %w[shift 7], "\u0003" => %w[ctrl c] }.freeze
    # Without a serial line, in seconds: until it is asked for the first time, until it is asked again, and for each prompt;
    # and how often it is asked. What starts at all answers at the second time, here.
    READY = 60
    AGAIN = 60
    PROMPT = 12
    ASKED = 6
    # A kernel that finds no init may begin a shell instead, and a system that cannot mount what it should ends in one that
    # takes the same password: both would answer as well. The second says that it is one.
    SYSTEM = 'grep -q systemd /proc/1/comm && systemctl -q is-active multi-user.target'
    EMERGENCY = 'systemctl -q is-active emergency.target && echo IN-EMERGENCY > /dev/ttyS0'

    # Installs a system: see workshop.sh.
    def self.install(workshop, disk, recipe, patience:)
      drives = ["#{workshop[:root]},snapshot=on", "#{disk},cache=unsafe", "#{recipe},readonly=on"]
      said = new(['-m', '1536', '-kernel', workshop[:kernel], '-initrd', workshop[:initrd],
                  '-append', 'root=/dev/vda ro console=ttyS0 init=/usr/local/sbin/workshop',
                  *drives.flat_map { |drive| ['-drive', "if=virtio,format=raw,file=#{drive}"] }])
             .watch(patience) { |guest| guest.said.match?(/WORKSHOP: (?:DONE|FAILED)/) }
      raise "the workshop could not install it:\n#{said.lines.last(30).join}" unless said.include?('WORKSHOP: DONE')
    end

    # Starts a disk, logs in, and asks for what every whole system has.
    # @raise [RuntimeError] with the last lines, where something is not as it was installed
    # @return [String] what it said
    def self.judge(disk, firmware:, passphrase: nil, serial: true, password: PASSWORD, patience: 1800, **)
      guest = new(['-m', '1024', '-vga', 'std', '-drive', "if=none,id=d,format=raw,snapshot=on,file=#{disk}", '-device', 'ide-hd,drive=d'],
                  uefi: firmware == :uefi)
      said = guest.watch(patience) do
        next guest.log_in(password, passphrase) || guest.dead? if serial

        guest.log_in_blindly(password) || guest.dead_screen? || guest.said.include?('IN-EMERGENCY')
      end
      wrong = said.scan(/^\S+: FAILED$/)
      raise "the system is not as it was installed: #{said.lines.last(25).join}" unless said.include?('ALL-ASKED') && wrong.empty?

      said
    end

    # Starts a disk, lets it work, and takes its current away in the middle of that: the disk stays as it was left.
    def self.crash(disk, firmware:, password: PASSWORD, patience: 1800, **)
      guest = new(['-m', '1024', '-vga', 'std', '-drive', "if=none,id=d,format=raw,file=#{disk}", '-device', 'ide-hd,drive=d'],
                  uefi: firmware == :uefi)
      work = '(for n in 1 2 3 4 5 6; do cp -r /usr/share/doc /srv/copy-$n; done) & sleep 6; sync; sleep 2; echo AT-"WORK"'
      said = guest.watch(patience) { guest.log_in(password, nil, work, 'AT-WORK') || guest.dead? }
      raise "it did not come to work:\n#{said.lines.last(20).join}" unless said.include?('AT-WORK')
    end

    # Starts a disk and lets its system carry out a command that ends with its going off: what it writes stays.
    def self.order(disk, command, firmware:, passphrase: nil, password: PASSWORD, patience: 1800, **)
      guest = new(['-m', '1024', '-vga', 'std', '-drive', "if=none,id=d,format=raw,file=#{disk}", '-device', 'ide-hd,drive=d'],
                  uefi: firmware == :uefi)
      said = guest.watch(patience) { guest.log_in(password, passphrase, command, nil) || guest.dead? }
      raise "it did not carry out #{command}:\n#{said.lines.last(20).join}" unless guest.over?
    end

    attr_reader :said

    def initialize(arguments, uefi: false)
      @folder = Dir.mktmpdir('guest')
      @said = +''
      @step = 0
      flash = uefi ? variables : []
      @pid = spawn('setpriv', '--pdeathsig', 'KILL', *QEMU, *arguments, *flash,
                   '-chardev', "socket,id=line,path=#{@folder}/line,server=on,wait=off", '-serial', 'chardev:line',
                   '-qmp', "unix:#{@folder}/control,server=on,wait=off", in: :close, %i[out err] => "#{@folder}/log")
    end

    # Reads until the block says that it is over, the machine ends, or time is up.
    # @return [String] all that was said
    def watch(patience)
      line = connected
      deadline = now + patience
      while now < deadline && !(@over = !Process.wait(@pid, Process::WNOHANG).nil?)
        @said << line.readpartial(65_536).scrub('') if line.wait_readable(0.3)
        @line = line
        break if yield(self)
      end
      @said.delete("\r\e")
    rescue EOFError, SystemCallError
      @over = true
      @said.delete("\r\e")
    ensure
      finish
    end

    # @return [Boolean]
    def dead?
      @heard = [@said.bytesize, now, worked] unless @heard&.first == @said.bytesize
      quiet = now - @heard[1]
      tail.match?(DEAD) || quiet > QUIET || (quiet > IDLE && worked - @heard[2] < WORKED) || dead_screen?
    end

    # @return [Boolean]
    def dead_screen?
      return false if @looked && now - @looked < LOOK

      @looked = now
      text = screen
      @shown = [text, now] unless @shown&.first == text
      text.match?(DEAD_SHELL) || (text.match?(DEAD_SCREEN) && now - @shown.last > STILL)
    end

    # @return [Boolean] whether the command has come to its end
    def log_in(password, passphrase, command = 'sh /srv/questions', last = 'ALL-ASKED')
      talk = [[/unlock disk[^\n]*: *\z/i, passphrase], [/login: *\z/, 'root'], [/Password: *\z/, password],
              [/\# *\z/, command]]
      talk.drop(@step).each do |sign, answer|
        next @step += 1 if answer.nil?
        return false unless tail.match?(sign)

        type(answer)
      end
      last && tail.include?(last)
    end

    # @return [Boolean] whether the machine went off by itself
    def over? = @over

    # Without a serial line nobody knows when it is ready: it is asked again and again, by its keyboard; what was
    # half typed is given up first.
    def log_in_blindly(password)
      return true if @said.include?('ALL-ASKED')

      @asked ||= now - AGAIN + READY
      return false if now - @asked < AGAIN
      return true if (@times = @times.to_i + 1) > ASKED

      ["\u0003", "root\n", "#{password}\n", "#{EMERGENCY}; #{SYSTEM} && sh /srv/questions > /dev/ttyS0\n"].each do |text|
        press(text)
        sleep PROMPT
      end
      @asked = now
      false
    end

    private

    # @return [Float] seconds of processor time that the emulator has used (proc(5), stat, fields 14 and 15)
    def worked = File.read("/proc/#{@pid}/stat").rpartition(')').last.split[11, 2].sum(&:to_i).fdiv(100)

    def tail = @said.byteslice((@from || 0)..).to_s.scrub('').gsub(/\e\[[0-9;?]*[A-Za-z]/, '').delete("\r")

    def type(text)
      @from = @said.bytesize
      @step += 1
      @line.write("#{text}\n")
    end

    def press(text)
      controlled do |control|
        text.each_char do |char|
          keys = Array(KEYS[char] || (char.match?(/[A-Z]/) ? ['shift', char.downcase] : char))
          told(control, execute: 'send-key', arguments: { keys: keys.map { |key| { type: 'qcode', data: key } } })
          sleep 0.2
        end
      end
    end

    # @return [String] what is on it, without what is blank at its end
    def screen
      at, size = SCREEN
      controlled { |control| told(control, execute: 'pmemsave', arguments: { val: at, size:, filename: "#{@folder}/screen" }) }
      File.binread("#{@folder}/screen").each_char.each_slice(2).map(&:first).join.tr("\0", ' ').rstrip
    end

    def controlled
      control = UNIXSocket.new("#{@folder}/control")
      control.gets
      told(control, execute: 'qmp_capabilities')
      yield control
    ensure
      control&.close
    end

    # What is not answered yet is forgotten when the line is closed.
    def told(control, **command)
      control.puts(JSON.generate(command))
      nil until control.gets.include?('"return"')
    end

    def connected
      deadline = now + 10
      begin
        UNIXSocket.new("#{@folder}/line")
      rescue SystemCallError
        raise "the emulator does not begin: #{File.read("#{@folder}/log")}" if now > deadline

        sleep 0.1
        retry
      end
    end

    def variables
      FileUtils.cp("#{OVMF}/OVMF_VARS_4M.fd", "#{@folder}/vars.fd")
      ["unit=0,readonly=on,file=#{OVMF}/OVMF_CODE_4M.fd", "unit=1,file=#{@folder}/vars.fd"]
        .flat_map { |one| ['-drive', "if=pflash,format=raw,#{one}"] }
    end

    def finish
      Process.kill(:KILL, @pid)
      Process.wait(@pid)
    rescue Errno::ESRCH, Errno::ECHILD
      nil
    ensure
      FileUtils.rm_rf(@folder)
    end

    def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
  end
end
