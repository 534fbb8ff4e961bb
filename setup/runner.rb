# frozen_string_literal: true

require 'net/http'

module Setup
  # Runs the whole application until Ctrl C.
  class Runner
    PATIENCE = 120 # seconds; what ends before is told at once
    DEMO = %w[bench journals pictures secrets kept database].freeze # what --fresh begins anew

    # @param fresh [Boolean] the demo is begun anew
    # @param empty [Boolean] without the demo, in a folder of its own
    def initialize(fresh: false, empty: false)
      @fresh = fresh
      @empty = empty
      @var = File.expand_path(ENV.fetch('EVREL_VAR', File.join(ROOT, 'var', *('empty' if empty))))
      @port = Integer(ENV.fetch('EVREL_PORT', '8740'))
      @database_port = Integer(ENV.fetch('EVREL_DB_PORT', '8761'))
      @children = {}
    end

    # @return [Integer] exit code
    def run
      trap(:TERM) { raise Interrupt }
      check_port
      alone
      begin_anew if @fresh
      prepare
      say_where
      watch
    rescue Interrupt
      puts "\nStopping."
      0
    rescue Problem => e
      warn "\n#{e.message}"
      1
    ensure
      stop
    end

    private

    def check_port
      return true if Setup.port_free?(@port)

      raise Problem, "Port #{@port} is taken, perhaps by an Evrel that runs already: stop it, or set EVREL_PORT to a free port."
    end

    # Two on one folder would both write to its database, its journals and its drives.
    def alone
      FileUtils.mkdir_p(@var)
      @lock = File.open(File.join(@var, 'running.lock'), File::RDWR | File::CREAT, 0o600)
      return if @lock.flock(File::LOCK_EX | File::LOCK_NB)

      raise Problem, "Another Evrel runs on #{@var} already: stop it, or set EVREL_VAR to another folder."
    end

    def begin_anew
      raise Problem, 'The database lies elsewhere and is shared: it is not begun anew from here.' if elsewhere?

      # The password of its people is made with the demo, and with nothing else.
      if File.directory?(File.join(@var, 'database')) && !kept('demo-password')
        raise Problem, "#{@var} holds no demo but what somebody works with: it is not removed. Set EVREL_VAR to another folder."
      end

      database.end_orphan # it would go on with files that are gone
      Setup.step('Removing the old demo') { DEMO.each { |name| FileUtils.rm_rf(File.join(@var, name)) } }
    end

    def prepare
      check_port
      FileUtils.mkdir_p(@var)
      Setup.prepare
      keep_to_ourselves
      Setup.step('Database') { @children[database.start] = 'database' } unless elsewhere?
      Setup.step(@empty ? 'Tables' : 'Tables and demo') { Setup.run(*ruby('app/prepare.rb', *('demo' unless @empty)), env:) }
      let_go_of_rights
      Setup.step('Warden') { warden }
      Setup.step('Web server and workers') { server_and_workers }
    end

    def server_and_workers
      start('web server', 'bundle', 'exec', 'puma', '-q', '-C', 'app/puma.rb', 'config.ru')
      wait_for_pages # each of the others needs a processor for seconds before it begins
      writers.times { |index| start(index.zero? ? 'worker' : "worker #{index + 1}", *ruby('app/worker.rb', 'writing', (index + 1).to_s)) }
      start('reader', *ruby('app/worker.rb', 'reading'))
      start('drive reader', *ruby('app/worker.rb', 'drives'))
      takers.times { |index| start("taker #{index + 1}", *ruby('app/worker.rb', 'takings', (index + 1).to_s)) }
      start('file server', *file_server) if File.directory?(File.join(@var, 'bench', 'web'))
    end

    # What is read out of others' disks is for nobody else on this machine. As root, the server of the database is another
    # user, who has to get to its own folder.
    def keep_to_ourselves
      File.umask(0o077)
      File.chmod(Process.uid.zero? ? 0o711 : 0o700, @var)
    end

    # Whatever reads foreign bytes, or answers others, may open no drive for writing.
    def let_go_of_rights
      return unless Process.uid.zero?

      @account = Account.of_this_machine(@var)
      return Setup.told('User without rights', "none gets at #{ROOT} and #{@var}: all runs as root") unless @account

      Setup.step('User without rights') do
        @account.give_devices
        @account.take(@var)
      end
    end

    # Pages and workers ask it for drives.
    def warden
      FileUtils.mkdir_p(warden_folder)
      File.chmod(0o711, warden_folder)
      FileUtils.rm_f(socket)
      start('warden', *ruby('bin/warden', warden_folder, (@account ? @account.uid : Process.uid).to_s), behind: [])
      wait_until('The warden did not listen') { File.socket?(socket) }
      @asking = { 'EVREL_WARDEN' => socket, 'HOME' => @var }
    end

    def warden_folder = File.join(@var, 'warden')
    def socket = File.join(warden_folder, 'socket')

    # Several hosts may share one.
    def elsewhere? = !ENV['EVREL_DB_HOST'].to_s.empty?

    # As many drives are written to at the same time; the others wait their turn.
    def writers = Integer(ENV.fetch('EVREL_WRITERS', '2'))

    # As many images are taken at the same time; the others wait their turn.
    def takers = Integer(ENV.fetch('EVREL_TAKERS', '2'))

    # The stand-in for an office's file server: the demo has a shelf on it.
    def file_server
      ['env', "EVREL_FILES=#{File.join(@var, 'bench', 'web')}", 'bundle', 'exec', 'puma', '-q', '-t', '2:4', '-C', '-', '-b',
       "tcp://127.0.0.1:#{env['EVREL_FILES_PORT']}", 'stand_ins/file_server.ru']
    end

    def database = @database ||= Database.new(@var, port: @database_port, name: 'evrel')

    def ruby(*arguments) = ['bundle', 'exec', RbConfig.ruby, *arguments]

    def env
      { 'EVREL_VAR' => @var, 'EVREL_DB_PORT' => @database_port.to_s, 'EVREL_PORT' => @port.to_s,
        'EVREL_FILES_PORT' => ENV.fetch('EVREL_FILES_PORT', '8741'), 'EVREL_WEB_NETWORKS' => networks }
    end

    # The demo's file server is on this machine.
    def networks = [ENV.fetch('EVREL_WEB_NETWORKS', nil), (@empty ? nil : '127.0.0.1')].compact.join(',')

    # @param behind [Array<String>] what gives up rights
    def start(name, *command, behind: @account ? @account.words : [])
      log = File.join(@var, "#{name.tr(' ', '-')}.log")
      # setpriv: whoever kills this process ends its children with it.
      @children[spawn(env.merge(@asking.to_h), *behind, 'setpriv', '--pdeathsig', 'KILL', *command,
                      chdir: ROOT, out: [log, 'a'], err: [log, 'a'], pgroup: true)] = name
    end

    def wait_for_pages = wait_until('The web server did not answer') { answers? }

    def wait_until(what)
      deadline = Setup.now + PATIENCE
      until yield
        check_children
        raise Problem, "#{what} within #{PATIENCE} s; see the logs in #{@var}." if Setup.now > deadline

        sleep 0.1
      end
    end

    def answers?
      Net::HTTP.get_response(URI("http://127.0.0.1:#{@port}/")).is_a?(Net::HTTPSuccess)
    rescue SystemCallError
      false
    end

    def say_where
      puts "\n  Evrel      http://127.0.0.1:#{@port}/"
      if (code = kept('first-code'))
        puts "  Code       #{code}\n\n  Nobody works here yet: this code makes the first lead."
      elsif (password = kept('demo-password'))
        puts "  Sign-in    ina\n  Password   #{password}"
      end
      puts "\n  Ctrl C stops everything.\n"
    end

    # @return [String, nil] what was made at the first start
    def kept(name)
      file = File.join(@var, name)
      File.exist?(file) ? File.read(file) : nil
    end

    def watch
      loop do
        check_children
        sleep 0.5
      end
    end

    # @raise [Problem] where one of the three has ended
    def check_children
      pid = Process.wait(-1, Process::WNOHANG) or return
      name = @children.delete(pid) or return
      log = File.join(@var, "#{name.tr(' ', '-')}.log")
      said = File.readlines(log).last(8).join
      raise Problem, "The #{name} has ended; see #{log}, then run bin/start again: nothing is lost." \
                     "#{"\nIt said at last:\n#{said}" unless said.empty?}"
    end

    # Writes are journaled: the worker may be ended at any moment. The database
    # goes last, in order.
    def stop
      ending = @children.reject { |_, name| name == 'database' }
      ending.each_key { |pid| signal(:TERM, pid) }
      deadline = Setup.now + 8
      until ending.empty?
        ending.reject! { |pid, _| gone?(pid) }
        ending.each_key { |pid| signal(:KILL, pid) } if Setup.now > deadline
        sleep 0.05
      end
      @database&.stop
    end

    def gone?(pid)
      Process.wait(pid, Process::WNOHANG) || false
    rescue Errno::ECHILD
      true
    end

    def signal(name, pid)
      Process.kill(name, -pid)
    rescue Errno::ESRCH
      nil
    end
  end
end
