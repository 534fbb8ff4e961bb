# frozen_string_literal: true

module Evrel
  # The one place that starts programs of others. What they read was made by
  # others too: each runs in a sandbox (bubblewrap) with namespaces of its own,
  # without a network, in which there is nothing but the system's programs, an
  # empty /tmp and the files that it is given; it ends with whoever began it, and
  # at limits of memory, time and what it says. Where no sandbox can be made,
  # nothing is run.
  module Tool
    SANDBOX = 'bwrap'
    # The system: programs, what finds libraries, and settings that tools want.
    SETTINGS = %w[/etc/ld.so.cache /etc/alternatives /etc/mke2fs.conf].freeze
    SYSTEM = ['--ro-bind', '/usr', '/usr', '--proc', '/proc', '--dev', '/dev', '--tmpfs', '/tmp', '--dir', '/mnt',
              *SETTINGS.flat_map { |path| ['--ro-bind-try', path, path] }].freeze
    # Parts of a system that are folders of their own, or links into /usr.
    ROOTS = %w[/bin /sbin /lib /lib64 /lib32].freeze
    NAMESPACES = %w[--unshare-ipc --unshare-pid --unshare-net --unshare-uts].freeze
    ENVIRONMENT = { 'PATH' => '/usr/sbin:/usr/bin:/sbin:/bin', 'HOME' => '/tmp', 'LC_ALL' => 'C', 'LANG' => 'C' }.freeze
    # Bytes of memory, files that may be open, seconds of a processor and on the clock, and bytes that it may say.
    LIMITS = { memory: 8 * GIB, files: 512, processor: 12 * 3600, seconds: 6 * 3600, answer: 64 * MIB }.freeze
    # Exit codes above this are signals, as a shell tells them.
    SIGNALLED = 128

    # What a program said, what it complained of, and how it ended.
    Said = Struct.new(:text, :errors, :code) do
      def success? = code.zero?
    end

    # What of this machine a program sees. read, write: paths of files and folders; devices: of device nodes; rights:
    # capabilities(7) that it needs, without a user namespace of its own then.
    Room = Struct.new(:read, :write, :devices, :rights, keyword_init: true) do
      def initialize(read: [], write: [], devices: [], rights: []) = super

      # @return [Array<String>] what the program is put behind
      def words
        [Tool.sandbox, '--die-with-parent', '--new-session', *NAMESPACES, *user, *SYSTEM, *roots,
         *bound('--ro-bind', read), *bound('--bind', write), *devices.flat_map { |path| ['--dev-bind', path, path] }, '--']
      end

      private

      def user = rights.empty? ? %w[--unshare-user --cap-drop ALL] : ['--cap-drop', 'ALL', *rights.flat_map { |name| ['--cap-add', name] }]

      def roots
        ROOTS.flat_map do |path|
          if ::File.symlink?(path) then ['--symlink', ::File.readlink(path), path]
          elsif ::File.directory?(path) then ['--ro-bind', path, path]
          else []
          end
        end
      end

      # A drive is a device, and would be none in there.
      def bound(how, paths)
        paths.map { |path| ::File.expand_path(path) }.uniq.flat_map { |path| [::File.blockdev?(path) ? '--dev-bind' : how, path, path] }
      end
    end

    class << self
      # Runs a program to its end.
      # @param command [Array<String>]
      # @param input [String, nil] what it reads
      # @param environment [Hash]
      # @param errors [Boolean] whether what it complains of is kept apart
      # @param limits [Hash] any of LIMITS
      # @param room [Hash] as Room
      # @return [Said]
      # @raise [Unreadable] where the program is not there
      # @raise [Unsupported] where no sandbox can be made
      # @raise [Damaged] where it says too much or takes too long
      def run(*command, input: nil, environment: {}, errors: false, limits: {}, **room)
        limits = LIMITS.merge(limits)
        said = status = nil
        pipes(command, environment, limits, room, together: !errors) do |give, take, complaints, process|
          feeder = Thread.new { feed(give, input) }
          said = heard([take, complaints].compact, limits, command, process)
          feeder.join
          status = process.value
        end
        Said.new(said.first, said[1].to_s, code(status))
      end

      # As `run`, where whoever asks reads and writes by himself.
      # @yieldparam give [IO]
      # @yieldparam take [IO]
      # @yieldparam complaints [IO]
      # @yieldparam process [Process::Waiter]
      def piped(*command, environment: {}, limits: {}, **room)
        pipes(command, environment, LIMITS.merge(limits), room, together: false) { |*streams| yield(*streams) }
      end

      # Starts a program that goes on beside this one.
      # @param redirections [Hash] as Process.spawn
      # @return [Integer] process id of the sandbox: whoever ends it ends the program
      def start(*command, environment: {}, limits: {}, redirections: {}, **room)
        ready!(command)
        Linux::Spawn.spawn(ENVIRONMENT.merge(environment), *words(command, LIMITS.merge(limits), room), **redirections)
      end

      # Runs a program whose end of a stream is a file of ours.
      # @param path [String] what it reads, in mode :from, or writes
      # @param way [Symbol] :from or :into
      # @yieldparam io [IO] the other end
      # @return [Boolean] whether it was content
      def stream(way, path, *command)
        theirs, ours = way == :from ? IO.pipe(binmode: true).reverse : IO.pipe(binmode: true)
        ends = way == :from ? { in: [path, 'r'], out: theirs } : { in: theirs, out: [path, 'w'] }
        pid = start(*command, redirections: { **ends, err: ::File::NULL })
        theirs.close
        yield ours
        ours.close
        Process.wait2(pid).last.success?.tap { pid = nil }
      ensure
        [ours, theirs].compact.each { |io| io.close unless io.closed? }
        Linux::Death.of(pid) if pid
      end

      # Starts the one program that no sandbox can hold, since others have to see what it mounts. It is given what it
      # opens, which is raw bytes, or a layer that was made here; it has limits, and ends with this process.
      # @return [Integer] process id
      def beside(*command, redirections: {})
        raise Unreadable.new("#{command.first} is not installed", where: command.first) unless there?(command.first)

        limits = ['--core=0', "--as=#{LIMITS[:memory]}", "--nofile=#{LIMITS[:files]}"]
        Linux::Spawn.spawn(*Linux::Death::TIED, place('prlimit'), *limits, place(command.first), *command.drop(1), **redirections)
      end

      # Asks the system itself: the program reads nothing that others made.
      # @return [Said]
      def system(*command)
        said, status = Linux::Spawn.capture2e(ENVIRONMENT, *command)
        Said.new(said, '', code(status))
      end

      # @param pid [Integer] as `start` gave it
      # @return [Integer] process id of the program in the sandbox, as long as both run
      def program(pid)
        child = ::File.read("/proc/#{pid}/task/#{pid}/children").to_i
        child.zero? ? pid : program(child)
      rescue SystemCallError
        pid
      end

      # @return [String, nil] why no sandbox can be made on this machine
      def missing
        return @missing if defined?(@missing)

        said, status = Linux::Spawn.capture2e(*Room.new.words, 'true')
        @missing = status.success? ? nil : said.lines.first.to_s.strip
      rescue Errno::ENOENT
        @missing = "#{SANDBOX} is not installed"
      end

      # @return [String] path of what makes the sandbox
      def sandbox = place(SANDBOX) || SANDBOX

      # @param name [String]
      # @return [Boolean] whether such a program is there
      def there?(name) = !place(name).nil?

      private

      # @return [String, nil] path of a program of the system
      def place(name)
        ENVIRONMENT.fetch('PATH').split(':').map { |folder| ::File.join(folder, name) }.find { |path| ::File.executable?(path) }
      end

      def ready!(command)
        raise Unreadable.new("#{command.first} is not installed", where: command.first) unless there?(command.first)
        return unless missing

        raise Unsupported.new("programs that read foreign disks cannot be run safely on this machine: #{missing}",
                              where: command.first, hint: 'install bubblewrap; allow user namespaces')
      end

      def words(command, limits, room)
        largest = "--fsize=#{limits[:largest]}" if limits[:largest]
        [place('prlimit'), "--as=#{limits[:memory]}", "--cpu=#{limits[:processor]}", "--nofile=#{limits[:files]}", '--core=0', *largest,
         *Room.new(**room).words, *command]
      end

      def pipes(command, environment, limits, room, together:)
        ready!(command)
        given = [ENVIRONMENT.merge(environment), *words(command, limits, room)]
        return Linux::Spawn.popen3(*given) { |*streams| yield(*streams) } unless together

        Linux::Spawn.popen2e(*given) { |give, take, process| yield give, take, nil, process }
      end

      def feed(give, input)
        give.write(input) if input
      rescue Errno::EPIPE
        nil # it has read enough
      ensure
        give.close
      end

      # @return [Array<String>] what each of the streams said
      def heard(streams, limits, command, process)
        till = now + limits[:seconds]
        texts = streams.to_h { |one| [one, ''.b] }
        open = streams.dup
        until open.empty?
          ready, = IO.select(open, nil, nil, [till - now, 0].max)
          raise Damaged.new("#{command.first} takes too long", where: command.first) unless ready

          ready.each { |one| open.delete(one) unless more(one, texts[one]) }
          said = texts.sum { |_, text| text.bytesize }
          raise Damaged.new("#{command.first} says too much", where: command.first) if said > limits[:answer]
        end
        streams.map { |one| texts[one].force_encoding('UTF-8') }
      rescue Damaged
        Process.kill(:KILL, process.pid)
        raise
      end

      def more(stream, text)
        text << stream.readpartial(64 * KIB)
      rescue EOFError
        nil
      end

      def code(status) = status.exitstatus || (SIGNALLED + status.termsig)
      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    end
  end
end
