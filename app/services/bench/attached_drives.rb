# frozen_string_literal: true

# The drives that are plugged in now, with what is on them. The only place that
# knows where drives come from.
module AttachedDrives
  CACHE = {} # rubocop:disable Style/MutableConstant -- path → [stamp of the file, what was read from it]
  LOCK = Mutex.new

  # What is on a drive: guid of its table, parts as in a manifest (each with
  # "volume"), host names of its systems, fingerprint; problem is a message where
  # the table cannot be trusted.
  Contents = Struct.new(:disk_guid, :parts, :hosts, :fingerprint, :problem, :written_at, :started_at, keyword_init: true)

  module_function

  def provider = StandIns::Bench.new(Config.path('bench'))

  # @return [Array<StandIns::Drive>] by port
  def list = provider.drives

  # @param key [String] as Evrel::Identity.key
  # @return [StandIns::Drive, nil] nil also where two drives claim to be it
  def by_key(key)
    found = list.select { |drive| drive.key == key }
    found.first if found.one?
  end

  # @return [String, nil] what the bench calls the drive, attached or not
  def handle(key) = (list + provider.spare).find { |drive| drive.key == key }&.handle

  # Marks the drive itself as locked to a docket, or, with nil, as free.
  def mark(record, docket)
    name = handle(record.identity_key)
    provider.lock(name, docket) if name
  end

  # Records every attached drive and where it was seen. In the middle of a change only what has moved: the rest would hold
  # up whoever changes something else.
  # @return [Hash{String=>Drive}] key → record
  def remember
    attached = list
    known = Drive.includes(:shelves, :docket, :computer, :protected_by).where(identity_key: attached.map(&:key)).index_by(&:identity_key)
    attached.to_h { |seen| [seen.key, noted(known[seen.key] || Drive.new(identity_key: seen.key), seen)] }
  end

  def noted(record, seen)
    return record unless record.last_port != seen.port || (!Drive.connection.transaction_open? && stale?(record))

    record.update!(serial: seen.serial.presence, wwn: seen.wwn, maker: seen.maker, model: seen.model, bus: seen.bus,
                   capacity: seen.capacity, rotating: seen.rotating || false, last_port: seen.port, last_seen_at: Time.now)
    record.sighted(seen.port)
    record
  rescue ActiveRecord::RecordNotUnique
    Drive.find_by!(identity_key: seen.key) # somebody else saw it at the same moment
  end

  def stale?(record) = record.last_seen_at.nil? || record.last_seen_at < 1.minute.ago

  # @param seen [StandIns::Drive]
  # @return [Contents] read again whenever the drive has changed
  def contents(seen)
    stat = File.stat(seen.path)
    stamp = [stat.mtime, stat.blocks, seen.faults]
    LOCK.synchronize do
      known, found = CACHE[seen.path]
      return found if known == stamp

      found = read_contents(seen)
      CACHE[seen.path] = [stamp, found]
      found
    end
  end

  # For pages: a drive that is being written changes all the time and says
  # nothing of use; what was last known of it is shown instead.
  # @return [Contents]
  def shown(seen) = shown_all([seen]).values.first

  # @param drives [Array<StandIns::Drive>]
  # @return [Hash{String=>Contents}] by port
  def shown_all(drives)
    busy = Write.joins(:drive).where(state: 'running').pluck('drives.identity_key') +
           DriveTask.joins(:drive).where(state: 'running', kind: DriveTask::WRITING).pluck('drives.identity_key')
    drives.to_h do |seen|
      known = busy.include?(seen.key) ? CACHE[seen.path]&.last || Contents.new(parts: [], hosts: [], fingerprint: nil) : contents(seen)
      [seen.port, known]
    end
  end

  # Reads what is on all of them before somebody waits for it: a process that has just begun knows none.
  # @return [Thread]
  def look_ahead
    Thread.new do
      ActiveRecord::Base.connection_pool.with_connection { shown_all(list) }
    rescue Evrel::Error, SystemCallError
      nil # whoever asks is told
    end
  end

  # @return [Evrel::Identity] as the drive shows it at this moment
  def identity(seen)
    Evrel::Identity.new(serial: seen.serial, wwn: seen.wwn, model: seen.name, capacity: seen.capacity,
                        fingerprint: contents(seen).fingerprint)
  end

  def read_contents(seen)
    disk = seen.open
    fingerprint = Evrel::Identity.fingerprint(disk)
    found = Evrel::Image::UsedMap.new(disk, prove: false)
    hosts = Evrel::Image::Systems.hosts(found)
    Contents.new(disk_guid: found.table&.guid, parts: parts_of(found), hosts:, fingerprint:, written_at: written_at(found),
                 started_at: started_at(found))
  rescue Evrel::Damaged, Evrel::Unreadable => e
    Contents.new(parts: [], hosts: [], fingerprint:, problem: e.message)
  ensure
    disk&.close
  end

  def parts_of(found)
    return found.parts.map { |part| Evrel::Image::Description.partition(part) } if found.table
    return [] if found.empty?

    [{ 'number' => nil, 'role' => 'data', 'name' => '', 'start_bytes' => 0, 'size_bytes' => found.whole.disk.size,
       **Evrel::Image::Description.contents(found.whole) }]
  end

  # The newest time at which one of the volumes says that it was written to.
  def written_at(found)
    found.all.filter_map { |part| part.volume.try(:written_at) }.max
  end

  # When the system on it last mounted its part, as far as its file system says.
  def started_at(found)
    found.parts.select { |part| part.partition.role == :system }.filter_map { |part| part.volume.try(:mounted_at) }.max
  end
  private_class_method :noted, :stale?, :read_contents, :parts_of, :written_at, :started_at
end
