# frozen_string_literal: true

# The drives that are plugged in now, with what is on them.
module AttachedDrives
  CACHE = {} # rubocop:disable Style/MutableConstant -- bench and drive → [its stamp, what was read from it]
  LOCK = Mutex.new
  # Of several that are looked at together.
  TOGETHER = { seconds: 600, processor: 300 }.freeze

  module_function

  # @return [Array<Evrel::Bench::Drive>] by bench and port
  def list = Benches.drives

  # @param key [String] as Evrel::Identity.key
  # @return [Evrel::Bench::Drive, nil] nil also where two drives claim to be it
  def by_key(key)
    found = list.select { |drive| drive.key == key }
    found.first if found.one?
  end

  # @param record [Drive, nil]
  # @return [Evrel::Bench::Drive, nil] as it is attached now
  def of(record) = record && by_key(record.identity_key)

  # @param record [Drive]
  # @return [Evrel::Bench::Drive]
  # @raise [Evrel::Refused] where it is not attached
  def of!(record)
    of(record) or raise Evrel::Refused.new('the drive is not attached', where: 'drive', hint: 'plug it in')
  end

  # @return [Evrel::Bench::Drive, nil] attached or beside its bench
  def at_hand(key) = (list + Benches.spare).find { |drive| drive.key == key }

  # @return [Hash{String=>Drive}] key → record of each attached drive that has one; a drive has none until it is noted
  def records
    Drive.includes(:shelves, :docket, :computer, :protected_by).where(identity_key: list.map(&:key)).index_by(&:identity_key)
  end

  # Records every attached drive and where it was seen. In the middle of a change only what has moved: the rest would hold
  # up whoever changes something else.
  # @return [Hash{String=>Drive}] key → record
  def remember
    found = list
    known = Drive.includes(:shelves, :docket, :computer, :protected_by).where(identity_key: found.map(&:key)).index_by(&:identity_key)
    moved = found.reject { |attached| known[attached.key]&.then { |one| [one.last_bench, one.last_port] } == attached.slot }
    shown_all(moved)
    found.to_h { |attached| [attached.key, noted(known[attached.key] || Drive.new(identity_key: attached.key), attached)] }
  end

  def noted(record, attached)
    moved = [record.last_bench, record.last_port] != attached.slot
    return record unless moved || (!Drive.connection.transaction_open? && stale?(record))

    record.update!(serial: attached.serial.presence, wwn: attached.wwn, maker: attached.maker, model: attached.model, bus: attached.bus,
                   capacity: attached.capacity, rotating: attached.rotating || false, last_bench: attached.bench.name,
                   last_port: attached.port, last_seen_at: Time.now,
                   disk_guid: guid(attached) || record.disk_guid)
    record.sighted(attached)
    record
  rescue ActiveRecord::RecordNotUnique
    Drive.find_by!(identity_key: attached.key) # somebody else saw it at the same moment
  end

  # A drive that cannot be read keeps what is known of it.
  def guid(attached) = shown(attached).disk_guid

  def stale?(record) = record.last_seen_at.nil? || record.last_seen_at < 1.minute.ago

  # @param attached [Evrel::Bench::Drive]
  # @return [Evrel::Survey] read again whenever the drive has changed
  def contents(attached)
    LOCK.synchronize do
      stamp, found = CACHE[cached(attached)]
      return found if stamp == attached.stamp

      found = read_contents(attached)
      CACHE[cached(attached)] = [attached.stamp, found]
      found
    end
  end

  # Its contents are read anew the next time that somebody asks.
  def forget(attached) = LOCK.synchronize { CACHE.delete(cached(attached)) }

  # For pages: a drive that is being written changes all the time and says
  # nothing of use; what was last known of it is shown instead.
  # @return [Evrel::Survey]
  def shown(attached) = shown_all([attached]).values.first

  # @param drives [Array<Evrel::Bench::Drive>]
  # @return [Hash{Array=>Evrel::Survey}] by bench and port
  def shown_all(drives)
    busy = Write.joins(:drive).where(state: 'running').pluck('drives.identity_key') +
           DriveTask.joins(:drive).where(state: 'running', kind: DriveTask::WRITING).pluck('drives.identity_key')
    read_together(drives.reject { |attached| busy.include?(attached.key) })
    drives.to_h do |attached|
      known = CACHE[cached(attached)]&.last || Evrel::Survey.nothing if busy.include?(attached.key)
      [attached.slot, known || contents(attached)]
    end
  end

  # Reads what is on all of them before somebody waits for it: a process that has just begun knows none.
  # @return [Thread]
  def read_ahead
    Thread.new do
      ActiveRecord::Base.connection_pool.with_connection { shown_all(list) }
    rescue Evrel::Error, SystemCallError
      nil # whoever asks is told
    end
  end

  # @return [Evrel::Identity] as the drive shows it at this moment
  def identity(attached)
    Evrel::Identity.new(serial: attached.serial, wwn: attached.wwn, model: attached.name, capacity: attached.capacity,
                        fingerprint: contents(attached).fingerprint)
  end

  def cached(attached) = [attached.bench.name, attached.handle]

  # A process for each takes longer than to look at most of them. Where one of them does harm, each is looked at by itself.
  def read_together(drives)
    LOCK.synchronize do
      unread = drives.reject { |attached| CACHE[cached(attached)]&.first == attached.stamp }
      next if unread.size < 2

      stamps = unread.map(&:stamp)
      found = Evrel::Apart.call(**TOGETHER) { unread.map { |attached| read_here(attached).to_plain } }
      unread.zip(stamps, found) { |attached, stamp, plain| CACHE[cached(attached)] = [stamp, Evrel::Survey.parse(plain)] }
    end
  rescue Evrel::Error
    nil
  end

  def read_contents(attached)
    Evrel::Survey.parse(Evrel::Apart.call { read_here(attached).to_plain })
  rescue Evrel::Refused => e
    Evrel::Survey.nothing(problem: e.message)
  end

  def read_here(attached)
    disk = attached.open
    Evrel::Survey.of(disk)
  rescue Evrel::Unreadable => e
    Evrel::Survey.nothing(problem: e.message)
  ensure
    disk&.close
  end
  private_class_method :noted, :guid, :stale?, :cached, :read_together, :read_contents, :read_here
end
