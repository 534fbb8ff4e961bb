# frozen_string_literal: true

require 'securerandom'

# Where things are. Everything that changes lies below one folder.
module Config
  ROOT = File.expand_path('..', __dir__)
  OWNER = 'database-owner-password'

  module_function

  # @return [String] the data folder
  def var = ENV.fetch('EVREL_VAR') { File.join(ROOT, 'var') }

  def path(*names) = File.join(var, *names)

  def database
    { adapter: 'trilogy', host: ENV.fetch('EVREL_DB_HOST', '127.0.0.1'), port: Integer(ENV.fetch('EVREL_DB_PORT', '8761')),
      username: ENV.fetch('EVREL_DB_USER', 'evrel'), password:,
      database: ENV.fetch('EVREL_DB_NAME', 'evrel'), encoding: 'utf8mb4', pool: 72, # a run's writes take one each
      # A server that says nothing any more is gone.
      connect_timeout: 5, read_timeout: 60, write_timeout: 60, **tls }
  end

  def password = ENV.fetch('EVREL_DB_PASSWORD') { File.read(path('database-password')).strip }

  # The account that makes and changes tables, where there is another one for that: of our own server, or as EVREL_DB_OWNER
  # and EVREL_DB_OWNER_PASSWORD say.
  # @return [Hash] as `database`
  def owner
    name = ENV.fetch('EVREL_DB_OWNER') { 'evrel_owner' if own_database? }
    name ? database.merge(username: name, password: ENV.fetch('EVREL_DB_OWNER_PASSWORD') { File.read(path(OWNER)).strip }) : database
  end

  # @return [Boolean] whether the database is one that bin/start has made
  def own_database? = ENV['EVREL_DB_HOST'].to_s.empty? && File.exist?(path(OWNER))

  # A database on another host is reached over TLS: EVREL_DB_CA is the file of the authority that its name is held against.
  # @return [Hash]
  def tls
    authority = ENV['EVREL_DB_CA'].to_s
    authority.empty? ? {} : { ssl: true, ssl_mode: 'SSL_MODE_VERIFY_IDENTITY', ssl_ca: authority }
  end

  # What nobody asked for by name may take so much of the disk: unpacked disks, working files, pictures.
  MOST = { 'kept' => Evrel::Image::Kept::MOST, 'scratch' => 500 * (10**9), 'pictures' => 5 * (10**9) }.freeze

  # @param name [String] of a folder
  # @return [Integer] bytes, or as EVREL_MOST_KEPT and so on say
  def most(name) = Integer(ENV.fetch("EVREL_MOST_#{name.upcase}", MOST.fetch(name)))

  # @return [String] the name of this host's own bench, which no other has that shares the database: jobs go to a queue of
  #   this name
  def bench = ENV.fetch('EVREL_BENCH', 'bench-1')

  # @return [String, nil] socket of the process that opens drives for writing; nil where everybody here does so
  def warden = ENV['EVREL_WARDEN'].to_s.then { |path| path unless path.empty? }

  # @return [String] the queue of what only reads, and shall not keep writes waiting
  def reading(name = bench) = "#{name}-reading"

  # @return [String] the queue of what is read from drives while somebody waits for it
  def drives(name = bench) = "#{name}-drives"

  # @return [String] the queue of images that are taken, which may take hours
  def takings(name = bench) = "#{name}-takings"

  # @return [Array<String>] folders below which a folder may become a shelf; the shares that stand-ins mount are among them
  def shelf_roots
    ENV.fetch('EVREL_SHELF_ROOTS', '/mnt:/media:/run/media:/srv:/home').split(':').reject(&:empty?) + [path('bench', 'shares')]
  end

  # @return [Array<String>] ranges of addresses of this machine or of networks of one's own into which a web shelf may lead
  def web_networks = ENV.fetch('EVREL_WEB_NETWORKS', '').split(',').map(&:strip).reject(&:empty?)

  # @return [Array<String>] host names under which the pages may be asked for
  def hosts = ENV.fetch('EVREL_HOSTS', '127.0.0.1,localhost').split(',')

  # @return [String] what signs the session cookies, made once
  def secret
    file = path('session-secret')
    File.write(file, SecureRandom.hex(64), perm: 0o600) unless File.exist?(file)
    File.read(file)
  end
end
