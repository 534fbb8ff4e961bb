# frozen_string_literal: true

require_relative 'restore'

# One image onto eight targets in memory: all at once from one reading, against
# one after the other; and eight slow ones, against one of them.
class ManyBench < RestoreBench
  TARGETS = 8
  SLOW = 40 * (10**6) # bytes per second

  def run
    measure('many') do
      evrel { "Evrel::Image::Capture.new(Evrel::Disk::File.open('#{disk}'), '#{image}').run" }
      [false, true].each { |read_back| at_once(read_back) }
      @results['peak memory of all its processes'] = { megabytes: peak { "i = Evrel::Image.open('#{image}'); #{many(true)}" } }
      slow
    end
  ensure
    FileUtils.rm_f(paths)
  end

  private

  def paths = Array.new(TARGETS) { |number| "/dev/shm/evrel-bench-#{$PROCESS_ID}-#{number}.raw" }
  def empty = paths.map { |path| "rm -f #{path}; truncate -s #{File.size(disk)} #{path}" }.join('; ')
  # What `peak` does before.
  def fill = empty

  def at_once(read_back)
    compare("#{TARGETS} targets at once#{', read back' if read_back}", "#{TARGETS} writes one after the other",
            -> { evrel(empty) { "i = Evrel::Image.open('#{image}'); #{many(read_back)}" } },
            -> { evrel(empty) { "i = Evrel::Image.open('#{image}'); #{one_by_one(read_back)}" } })
  end

  def many(read_back)
    "raise 'not written' unless Evrel::Restore::Many.new(i, #{paths.inspect}, wish: { 'way' => 'as_in_image' }, " \
      "read_back: #{read_back}).run.all?(&:written?)"
  end

  def one_by_one(read_back)
    "#{paths.inspect}.each { |p| Evrel::Disk::File.open(p, writable: true) { |d| #{engine_of("target: d, read_back: #{read_back}")} } }"
  end

  # What is measured is who waits for whom, not the processor.
  def slow
    compare("#{TARGETS} targets at 40 MB/s each, at once", 'one of them',
            -> { evrel(empty) { slowly(paths) } }, -> { evrel(empty) { slowly(paths.first(1)) } })
  end

  def slowly(paths)
    "i = Evrel::Image.open('#{image}'); shared = Evrel::Restore::SharedSource.new(i, #{paths.size}); " \
      "#{paths.inspect}.zip(shared.readers).map { |p, r| Thread.new { Evrel::Disk::File.open(p, writable: true) { |f| " \
      "d = StandIns::Disk::Paced.new(f, #{SLOW}); Evrel::Restore::Engine.new(image: r, target: d, " \
      'plan: Evrel::Layout.as_in_image(i, d), read_back: false).run }; r.close } }.each(&:join)'
  end
end
