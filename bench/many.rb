# frozen_string_literal: true

require_relative 'restore'

# One image onto eight targets in memory: all at once from one reading, against
# one after the other.
class ManyBench < RestoreBench
  TARGETS = 8

  def run
    measure('many') do
      evrel { "Evrel::Image::Capture.new(Evrel::Disk::File.open('#{disk}'), '#{image}').run" }
      compare("#{TARGETS} targets at once, read back", "#{TARGETS} writes one after the other",
              -> { evrel(empty) { "i = Evrel::Image.open('#{image}'); #{many}" } },
              -> { evrel(empty) { "i = Evrel::Image.open('#{image}'); #{one_by_one}" } })
      @results['peak memory of the process'] = { megabytes: peak { "i = Evrel::Image.open('#{image}'); #{many}" } }
    end
  ensure
    FileUtils.rm_f(paths)
  end

  private

  def paths = Array.new(TARGETS) { |number| "/dev/shm/evrel-bench-#{$PROCESS_ID}-#{number}.raw" }
  def empty = paths.map { |path| "rm -f #{path}; truncate -s #{File.size(disk)} #{path}" }.join('; ')
  # What `peak` does before.
  def fill = empty

  def many
    "raise 'not written' unless Evrel::Restore::Many.new(i, #{paths.inspect}, wish: { 'way' => 'as_in_image' }).run.all?(&:written?)"
  end

  def one_by_one
    "#{paths.inspect}.each { |p| Evrel::Disk::File.open(p, writable: true) { |d| #{engine_of('target: d')} } }"
  end
end
