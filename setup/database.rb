# frozen_string_literal: true

require 'securerandom'
require 'tmpdir'

module Setup
  # MariaDB from a data folder of our own, on loopback.
  class Database
    PATIENCE = 120 # seconds; it may have to recover from a power cut

    # @param folder [String] what EVREL_VAR is set to
    # @param port [Integer]
    # Nothing is waited for that would outlive a loss of current.
    HASTY = %w[--innodb-flush-log-at-trx-commit=0 --innodb-doublewrite=0 --innodb-flush-method=nosync --skip-log-bin
               --innodb-use-native-aio=0].freeze
    MEMORY = '/dev/shm'

    # @param name [String] of the database
    # @param durable [Boolean] without it the data lie in memory, where that can be
    def initialize(folder, port:, name:, durable: true)
      @folder = folder
      @durable = durable
      @port = port
      @name = name
    end

    # @return [Integer] process id of the server
    # @raise [Problem]
    def start
      end_orphan
      unless Setup.port_free?(@port)
        raise Problem, "Port #{@port} is taken, so the database cannot start: stop what listens there, " \
                       'or set EVREL_DB_PORT to a free port.'
      end

      install unless File.directory?(File.join(data, 'mysql'))
      File.write(init_file, statements, perm: 0o600)
      own(init_file)
      @pid = spawn('mariadbd', *options, "--init-file=#{init_file}", "--port=#{@port}", '--bind-address=127.0.0.1',
                   "--pid-file=#{pid_file}", "--socket=#{socket}", out: log, err: log, pgroup: true)
      wait
      @pid
    end

    def stop
      return unless @pid

      Process.kill(:TERM, @pid)
      Process.wait(@pid)
      @pid = nil
    rescue Errno::ESRCH, Errno::ECHILD
      @pid = nil
    end

    # Ends a server on our own data that outlived whoever started it.
    def end_orphan
      pid = Integer(File.read(pid_file).strip)
      return unless File.read("/proc/#{pid}/cmdline").include?(data)

      Process.kill(:TERM, pid)
      deadline = Setup.now + PATIENCE
      sleep 0.1 while File.exist?("/proc/#{pid}") && Setup.now < deadline
    rescue SystemCallError, ArgumentError
      nil # no such file, or no such process
    end

    private

    # Of each checkout and port its own.
    def data
      return File.join(@folder, 'database') if @durable || !File.writable?(MEMORY)

      File.join(MEMORY, "evrel-#{Digest::SHA256.hexdigest(@folder)[0, 12]}-#{@port}")
    end

    def pid_file = File.join(data, 'server.pid')
    def log = File.join(@folder, 'database.log')
    def init_file = File.join(@folder, 'database-users.sql')
    # The path of a socket has 107 characters at most.
    def socket = File.join(Dir.tmpdir, "evrel-database-#{@port}.sock")

    def install
      FileUtils.mkdir_p(data)
      own(data)
      Setup.run('mariadb-install-db', *options.difference(HASTY), '--auth-root-authentication-method=normal', '--skip-test-db')
    end

    def options = ['--no-defaults', "--datadir=#{data}", *(HASTY unless @durable), *("--user=#{user}" if Process.uid.zero?)]

    # Not as root, where its own user can reach the folder.
    def user
      @user ||= system('runuser', '-u', 'mysql', '--', 'test', '-x', @folder, err: File::NULL) ? 'mysql' : 'root'
    end

    def own(path)
      FileUtils.chown(user, nil, path) if Process.uid.zero?
    end

    # @param name [String] of a file beside the data
    def password(name)
      file = File.join(@folder, name)
      File.write(file, SecureRandom.hex(16), perm: 0o600) unless File.exist?(file)
      File.read(file)
    end

    # Carried out by the server at every start: the passwords hold that lie beside it now. Nobody signs in as root. Whoever
    # owns the tables gives the other account its rights to each (app/prepare.rb): of the record it can only add to it.
    def statements
      accounts = %w[127.0.0.1 localhost].map do |host|
        <<~SQL
          CREATE OR REPLACE USER evrel@'#{host}' IDENTIFIED BY '#{password('database-password')}';
          GRANT SELECT ON #{@name}.* TO evrel@'#{host}';
          CREATE OR REPLACE USER evrel_owner@'#{host}' IDENTIFIED BY '#{password('database-owner-password')}';
          GRANT ALL ON #{@name}.* TO evrel_owner@'#{host}' WITH GRANT OPTION;
        SQL
      end
      <<~SQL
        CREATE DATABASE IF NOT EXISTS #{@name} CHARACTER SET utf8mb4;
        #{accounts.join}
        ALTER USER root@'localhost' ACCOUNT LOCK;
      SQL
    end

    def wait
      deadline = Setup.now + PATIENCE
      while Setup.port_free?(@port)
        if Process.wait(@pid, Process::WNOHANG)
          @pid = nil
          raise Problem, "The database ended at once; the last lines of #{log}:\n#{File.readlines(log).last(8).join}"
        end
        raise Problem, "The database did not answer within #{PATIENCE} s; see #{log}." if Setup.now > deadline

        sleep 0.1
      end
    end
  end
end
