# frozen_string_literal: true

require_relative 'restore'

# Taking an image and checking it, against a general tool; and a second one of
# which little has changed.
class TakeBench < RestoreBench
  def run
    measure('take') do
      whole
      locked
      changed
      @results['peak memory of a capture, all its processes'] = { megabytes: peak do
        "require 'fileutils'; FileUtils.rm_rf('#{image}'); #{taking(checked: true)}"
      end }
    end
  end

  private

  def taking(folder = image, **how)
    given = how.map { |name, value| ", #{name}: #{value.inspect}" }.join
    "Evrel::Image::Capture.new(Evrel::Disk::File.open('#{disk}'), '#{folder}'#{given}).run; "
  end

  # It is over when its bytes are on the disk: ours flushes by itself, theirs gets a sync.
  def whole
    theirs = "#{@folder}/theirs.qcow2"
    packed = ['-c', '-O', 'qcow2', '-o', 'compression_type=zstd']
    level = Evrel::Image::CaptureOptions::LEVELS.fetch('balanced')
    unsynced = []
    packing = lambda do
      unsynced << timed("rm -f #{theirs}") { tool('qemu-img', 'convert', *packed, disk, theirs) }
      unsynced.last + timed { tool('sync', theirs) }
    end
    @first, = compare('capture with digests, checksums and check', 'qemu-img convert -c, zstd, then sync',
                      -> { evrel("rm -rf #{image}") { taking(level:, checked: true) } }, packing)
    keep('the same, against it without sync', @first, 'qemu-img convert -c, zstd', unsynced.sort[unsynced.size / 2])
    @results['size of the image'] = { ratio: (File.size("#{image}/disk.qcow2").to_f / File.size(theirs)).round(3) }
    FileUtils.rm_f(theirs)
  end

  # Restoring from an image that a passphrase opens. Opening it is slow on purpose, however large it is.
  def locked
    folder = "#{@folder}/locked"
    evrel { taking(folder, passphrase: 'tide and time') }
    from = "Evrel::Image.open('#{folder}', keys: Evrel::Keys.one('tide and time'))"
    compare('restore of a locked image', 'restore of an open one',
            -> { restored(from:) }, -> { restored })
    @results['opening a locked image'] = { seconds: median { evrel { from } }.round(2) }
    FileUtils.rm_rf(folder)
  end

  def restored(**from) = evrel(fill, ready: opened(**from)) { engine_of('target: d, read_back: false') }

  # A page of one cluster in a hundred.
  def changed
    random = Random.new(5)
    Evrel::Disk::File.open(disk, writable: true) do |opened|
      numbers = Evrel::Image::UsedMap.new(opened).each_cluster.map { |number, _| number }
      numbers.each do |number|
        opened.write(number * Evrel::Image::CLUSTER, random.bytes(4096)) if data?(opened, number) && random.rand(100).zero?
      end
    end
    second = "#{@folder}/second"
    ours = median { evrel("rm -rf #{second}") { taking(second, onto: image) } }
    keep('a second image, 1 % changed', ours, 'the first, with its check', @first)
    first, later = [image, second].map { |folder| File.size("#{folder}/disk.qcow2") }
    @results['size of the second image'] = { ratio: (later.to_f / first).round(3) }
  end

  # Structures of the file systems stay as they are: what is changed lies behind them.
  def data?(opened, number) = number * Evrel::Image::CLUSTER > opened.size / 4
end
