# frozen_string_literal: true

# How far a salvage is, for the pages: its map in few enough ranges to be drawn,
# and which files are hit so far.
class SalvageTold
  RANGES = 300
  FILES = 30
  EVERY = 20 # seconds between two looks at the files

  # @param taking [Taking]
  # @param disk [Evrel::Disk] the drive
  def initialize(taking, disk)
    @taking = taking
    @disk = disk
  end

  # @param progress [Evrel::Salvage::Progress]
  # @return [Hash]
  def of(progress)
    { pass: progress.pass, done: progress.read, total: progress.wanted, skipped: progress.skipped, bad: progress.bad,
      errors: progress.errors, at: progress.at, unread: (progress.bad + progress.skipped) / @disk.logical_sector, **map }
  end

  # @return [Hash] of all that was not read, when that is over
  def rest
    @looked = nil
    map
  end

  private

  # As it was noted last: a few seconds old.
  def map
    path = File.join(@taking.salvage_path, Evrel::Salvage::Store::MAP)
    return { ranges: [], hit: @hit.to_a } unless File.file?(path)

    found = Evrel::Salvage::Map.parse(File.read(path))
    missing = found.each.select { |_, _, state| %i[skipped bad].include?(state) }
    look(missing) if @looked.nil? || now - @looked > EVERY
    { ranges: drawn(missing), hit: @hit.to_a }
  end

  # The longest, where there are too many.
  def drawn(ranges) = ranges.max_by(RANGES) { |_, length,| length }.sort

  def look(missing)
    @looked = now
    return @hit = [] if missing.empty?

    places = missing.map { |offset, length,| [offset, length] }
    store = Evrel::Salvage::Store.open(@taking.salvage_path, @disk.size, @disk.logical_sector, writable: false)
    salvaged = Evrel::Salvage::Salvaged.new(store, places, @disk)
    @hit = Evrel::Salvage::Hit.new(salvaged).files(places).first(FILES)
  rescue Evrel::Error
    @hit ||= []
  ensure
    store&.close
  end

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
end
