# frozen_string_literal: true

require_relative 'restore'

# A drive onto another one, both block devices where loop devices can be had,
# against a plain copy of what is used of it.
class MoveBench < RestoreBench
  NEAR = 4 * MIB # gaps that a plain copy copies too

  def run
    measure('move') do
      on_devices do
        # The first reading finds nothing in memory.
        timed(fill) { plain }
        compare('a drive onto another, each cluster with its digest', 'dd bs=4M of its used ranges, fsync',
                -> { evrel(fill) { moved(read_back: false) } }, -> { timed(fill) { plain } })
        back = median { evrel(fill) { moved(read_back: true) } }
        keep('the same, read back', back, 'dd of its used ranges', median { timed(fill) { plain } })
        keep('once more, only what differs', median { evrel { moved(read_back: false, skip_identical: true) } }, 'dd of its used ranges',
             median { timed { plain } })
      end
    end
  end

  private

  def on_devices
    system(fill)
    from, to = [['-r', disk], [target]].map { |how| IO.popen(['losetup', '-f', '--show', *how], err: File::NULL, &:read).strip }
    both = [from, to].none?(&:empty?)
    @devices = both ? [from, to] : [disk, target]
    @results['between'] = { what: both ? 'loop devices' : 'plain files' }
    yield
  ensure
    [from, to].each { |loop| system('losetup', '-d', loop) unless loop.to_s.empty? }
  end

  # The same file, and so the same device, each time; what is made ready is on the disk before the clock is started.
  def fill
    "test -e #{target} || truncate -s #{File.size(disk)} #{target}; fallocate -z -o 0 -l #{File.size(disk)} #{target}; sync"
  end

  def moved(**how)
    from, to = @devices
    options = how.map { |name, value| "#{name}: #{value}" }.join(', ')
    "i = Evrel::Image::Live.new(Evrel::Disk.at('#{from}'), uid: 'a', taken_at: Time.now); " \
      "i.keep_digests(Evrel::Image::FirstRead.new('#{@folder}/digests', 'a')); File.truncate('#{@folder}/digests', 64); " \
      "d = Evrel::Disk.at('#{to}', writable: true); #{engine_of("target: d, #{options}")}"
  end

  def plain
    from, to = @devices
    used.each do |offset, length|
      tool('dd', "if=#{from}", "of=#{to}", 'bs=4M', "skip=#{offset}", "seek=#{offset}", "count=#{length}", 'iflag=skip_bytes,count_bytes',
           'oflag=seek_bytes', 'conv=notrunc', 'status=none')
    end
    tool('sync', to)
  end

  # @return [Array<(Integer, Integer)>] byte offset and length
  def used
    @used ||= Evrel::Disk::File.open(disk) do |opened|
      Evrel::Image::UsedMap.new(opened).each_cluster.with_object([]) do |(index, _), ranges|
        at = index * Evrel::Image::CLUSTER
        ends = [at + Evrel::Image::CLUSTER, opened.size].min
        near = ranges.any? && at - ranges.last.sum <= NEAR
        near ? ranges.last[1] = ends - ranges.last.first : ranges << [at, ends - at]
      end
    end
  end
end
