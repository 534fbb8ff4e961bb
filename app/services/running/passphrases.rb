# frozen_string_literal: true

require 'fileutils'
require 'io/wait'
require 'json'
require 'socket'

# What opens locked images: in the memory of the web server alone, for as long
# as a working day. Workers of the same user ask it over a socket; nothing of it
# is ever on a disk, in the database or in a log.
module Passphrases
  HOLDS = 12 * 3600 # seconds
  LONGEST = 4096 # bytes of a request, and of an answer
  PATIENCE = 5   # seconds for an answer

  # A passphrase, and until when it is kept.
  Kept = Struct.new(:passphrase, :until) do
    # It shows nothing of itself.
    def inspect = "#<#{self.class.name}>"
    alias_method :to_s, :inspect
  end

  KEPT = {} # rubocop:disable Style/MutableConstant -- identity of an image → Kept
  LOCK = Mutex.new

  module_function

  # @param uid [String] identity of an image
  # @param passphrase [String]
  def keep(uid, passphrase) = LOCK.synchronize { KEPT[uid] = Kept.new(passphrase, now + HOLDS) }

  def forget(uid) = LOCK.synchronize { KEPT.delete(uid) }

  # @param uid [String]
  # @return [String, nil]
  def of(uid) = here(uid) || (ask(uid) unless @serving)

  # From now on this process answers those that ask; it is the one in which they are kept.
  # @return [Thread]
  def serve
    @serving = true
    FileUtils.rm_f(path)
    old = File.umask(0o177)
    server = UNIXServer.new(path)
    Thread.new do
      loop { answer(server.accept) }
    ensure
      server.close # nobody waits for one that answers no more
    end
  ensure
    File.umask(old) if old
  end

  def here(uid)
    LOCK.synchronize do
      KEPT.delete_if { |_, kept| kept.until < now }
      KEPT[uid]&.passphrase
    end
  end

  def answer(line)
    user, = line.getpeereid
    asked = line.gets("\n", LONGEST)
    line.puts(JSON.generate(here(asked.to_s.chomp))) if user == Process.euid
  rescue SystemCallError, IOError
    nil # whoever asked is gone
  ensure
    line&.close
  end

  def ask(uid)
    UNIXSocket.open(path) do |line|
      line.puts(uid)
      JSON.parse(line.gets("\n", LONGEST).to_s) if line.wait_readable(PATIENCE)
    end
  rescue SystemCallError, JSON::ParserError
    nil # no web server is there
  end

  def path = Config.path('passphrases.sock')
  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
  private_class_method :here, :answer, :ask, :path, :now
end
