# frozen_string_literal: true

require 'json'
require 'openssl'
require 'securerandom'

# What the digests of events are keyed with: whoever has the database alone
# cannot make a chain that fits. It lies in the data folder, and is made once;
# several hosts that share a database share this file too.
module EventKey
  FILE = 'event-key'
  WORDS = 'evrel events'

  # key, and the id of the last event from before there was one: those have digests without it.
  Kept = Struct.new(:key, :since)

  LOCK = Mutex.new

  module_function

  # @return [Kept]
  # @raise [Evrel::Refused] where the events of this database have another one
  def kept
    LOCK.synchronize do
      seen = File.stat(path).then { |stat| [path, stat.ino, stat.mtime] } if File.exist?(path)
      @kept = nil unless seen && seen == @seen
      @seen = seen
      @kept ||= checked(read || make)
    end
  end

  # @param text [String]
  # @return [String] in hexadecimal
  def digest(text) = OpenSSL::HMAC.hexdigest('SHA256', kept.key, text)

  # @param id [Integer, nil] of an event; nil of one that is not kept yet
  # @return [Boolean] whether its digest is keyed
  def keyed?(id) = id.nil? || id > kept.since

  def path = Config.path(FILE)

  def read
    told = JSON.parse(File.read(path))
    Kept.new([told.fetch('key')].pack('H*'), told.fetch('since'))
  rescue Errno::ENOENT
    nil
  end

  def make
    raise another if noted.any?

    told = { key: SecureRandom.hex(32), since: Event.maximum(:id).to_i }
    File.open(path, File::WRONLY | File::CREAT | File::EXCL, 0o600) do |file|
      file.write(JSON.generate(told))
      file.fsync
    end
    Event.new(kind: 'events_keyed', text: 'From here on the record is keyed', data: { check: check(told[:key]) },
              created_at: Time.now).save!
    read
  rescue Errno::EEXIST
    sleep 0.05 # another process is a moment earlier
    read
  end

  # Where its check is not among those that were noted, it is another database's.
  def checked(kept)
    return kept if noted.empty? || noted.include?(check(kept.key.unpack1('H*')))

    raise another
  end

  def noted = Event.where(kind: 'events_keyed').filter_map { |event| event.data['check'] }

  def another
    Evrel::Refused.new('the record of this database is keyed with another key',
                       where: path, hint: 'copy the file event-key from the host that made it, or from its backup')
  end

  def check(key) = OpenSSL::HMAC.hexdigest('SHA256', [key].pack('H*'), WORDS)
  private_class_method :read, :make, :checked, :noted, :another, :check
end
