# frozen_string_literal: true

require 'securerandom'

# Where things are. Everything that changes lies below one folder.
module Config
  ROOT = File.expand_path('..', __dir__)

  module_function

  # @return [String] the data folder
  def var = ENV.fetch('EVREL_VAR') { File.join(ROOT, 'var') }

  def path(*names) = File.join(var, *names)

  def database
    { adapter: 'trilogy', host: ENV.fetch('EVREL_DB_HOST', '127.0.0.1'), port: Integer(ENV.fetch('EVREL_DB_PORT', '33071')),
      username: ENV.fetch('EVREL_DB_USER', 'evrel'), password:,
      database: ENV.fetch('EVREL_DB_NAME', 'evrel'), encoding: 'utf8mb4', pool: 72, # a run's writes take one each
      # A server that says nothing any more is gone.
      connect_timeout: 5, read_timeout: 60, write_timeout: 60, **tls }
  end

  def password = ENV.fetch('EVREL_DB_PASSWORD') { File.read(path('database-password')).strip }

  # A database on another host is reached over TLS: EVREL_DB_CA is the file of the authority that its name is held against.
  # @return [Hash]
  def tls
    authority = ENV['EVREL_DB_CA'].to_s
    authority.empty? ? {} : { ssl: true, ssl_mode: 'SSL_MODE_VERIFY_IDENTITY', ssl_ca: authority }
  end

  # @return [String] the name of this host's own bench, which no other has that shares the database: jobs go to a queue of
  #   this name
  def bench = ENV.fetch('EVREL_BENCH', 'bench-1')

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
