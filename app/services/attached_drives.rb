# frozen_string_literal: true

# The drives that are plugged in now, with what is on them. The only place that
# knows where drives come from.
module AttachedDrives
  CACHE = {} # rubocop:disable Style/MutableConstant -- path → [stamp of the file, what was read from it]
  LOCK = Mutex.new

  # What is on a drive: guid of its table, parts as in a manifest (each with
  # "volume"), fingerprint; problem is a message where the table cannot be trusted.
  Contents = Struct.new(:disk_guid, :parts, :fingerprint, :problem, :written_at, keyword_init: true)

  module_function

  def provider = StandIns::Bench.new(Config.path('bench'))

  # @return [Array<StandIns::Drive>] by port
  def list = provider.drives

  def by_serial(serial) = list.find { |drive| drive.serial == serial }

  # Records every attached drive and where it was seen.
  # @return [Hash{String=>Drive}] serial → record
  def remember
    list.to_h do |seen|
      record = Drive.find_or_initialize_by(serial: seen.serial)
      fresh = record.last_seen_at.nil? || record.last_seen_at < 1.minute.ago || record.last_port != seen.port
      if fresh
        record.update!(wwn: seen.wwn, maker: seen.maker, model: seen.model, bus: seen.bus, capacity: seen.capacity,
                       rotating: seen.rotating, last_port: seen.port, last_seen_at: Time.now)
      end
      [seen.serial, record]
    end
  end

  # @param seen [StandIns::Drive]
  # @return [Contents] read again whenever the drive has changed
  def contents(seen)
    stat = File.stat(seen.path)
    stamp = [stat.mtime, stat.blocks]
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
  def shown(seen)
    return contents(seen) unless Write.joins(:drive).exists?(state: 'running', drives: { serial: seen.serial })

    CACHE[seen.path]&.last || Contents.new(parts: [], fingerprint: nil)
  end

  # @return [Evrel::Identity] as the drive shows it at this moment
  def identity(seen)
    Evrel::Identity.new(serial: seen.serial, wwn: seen.wwn, model: seen.name, capacity: seen.capacity,
                        fingerprint: contents(seen).fingerprint)
  end

  def read_contents(seen)
    disk = seen.open
    fingerprint = Evrel::Identity.fingerprint(disk)
    found = Evrel::Image::UsedMap.new(disk)
    Contents.new(disk_guid: found.table&.guid, parts: parts_of(found), fingerprint:, written_at: written_at(found))
  rescue Evrel::Damaged => e
    Contents.new(parts: [], fingerprint:, problem: e.message)
  ensure
    disk&.close
  end

  def parts_of(found)
    return found.parts.map { |part| Evrel::Image::Description.partition(part) } if found.table
    return [] if found.whole.used_bytes.zero?

    [{ 'number' => nil, 'role' => 'data', 'name' => '', 'start_bytes' => 0, 'size_bytes' => found.whole.size,
       'volume' => Evrel::Image::Description.volume(found.whole) }]
  end

  # The newest time at which one of the volumes says that it was written to.
  def written_at(found)
    [found.whole, *found.parts.map(&:volume)].filter_map { |volume| volume.try(:written_at) }.max
  end
  private_class_method :read_contents, :parts_of, :written_at
end
