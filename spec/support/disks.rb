# frozen_string_literal: true

# Made disks and volumes, by ordinary tools.
module Disks
  MIB = 1024**2

  def sparse(name, size)
    file(name).tap { |path| Evrel::Disk::File.create(path, size) }
  end

  def open_disk(path, ...) = Evrel::Disk::File.open(path, ...)

  # @param script [String] for sfdisk
  def partitioned(name, size, script)
    sparse(name, size).tap { |path| run('sfdisk', '-q', path, input: script) }
  end

  # A folder with files of all kinds.
  def tree(files = { 'etc/hostname' => "quay\n", 'data/noise.bin' => Random.new(1).bytes(3_000_000),
                     'data/text.txt' => "tide table\n" * 40_000, 'empty' => '' })
    folder = file("tree-#{files.hash.abs}")
    files.each do |name, content|
      FileUtils.mkdir_p(File.dirname(File.join(folder, name)))
      File.binwrite(File.join(folder, name), content)
    end
    folder
  end

  def ext(name, size, *options, from: tree)
    sparse(name, size).tap { |path| run('mke2fs', '-q', '-F', *options, '-d', from, path) }
  end

  def fat(name, size, bits)
    path = sparse(name, size)
    run('mkfs.vfat', '-F', bits.to_s, '-n', "LABEL#{bits}", path)
    run('mmd', '-i', path, '::deep', '::deep/er')
    File.binwrite(file('long'), Random.new(bits).bytes(200_000))
    run('mcopy', '-i', path, file('long'), '::deep/er/A long name for a file.bin')
    File.write(file('short'), "short\n")
    run('mcopy', '-i', path, file('short'), '::SHORT.TXT')
    path
  end

  # @return [Boolean] whether two files are byte for byte alike
  def same?(one, other) = content?('cmp', '-s', one, other)

  # What a sparse file holds, without reading its holes.
  # @param from [Integer] bytes; only what lies from there on
  # @param below [Integer, nil] bytes; and below this
  # @return [Array<(Integer, String)>] byte offset and digest of each run of data
  def held(path, from: 0, below: nil)
    open_disk(path, logical_sector: 1) do |disk|
      runs = disk.extents.map { |offset, length| [[offset, from].max, [offset + length, below || disk.size].min] }
      runs.select { |first, last| last > first }.map do |first, last|
        digest = Digest::Blake3.new
        first.step(last - 1, MIB) { |at| digest << disk.read(at, [MIB, last - at].min) }
        [first, digest.hexdigest]
      end
    end
  end

  COPIES = {} # rubocop:disable Style/MutableConstant -- path of a copy → path of its master, and when it was last changed

  # A disk that takes its time to make is made once (see Masters), and copied.
  # @yieldparam name [String] of what is to be made, in the example's folder
  # @return [String] a copy that the example may spoil
  def made_once(name, copy = name, &)
    master = kept_once(name, file(copy), &)
    COPIES[file(copy)] = [master, File.mtime(file(copy))]
    file(copy)
  end

  # @yieldparam name [String] what is to be made, in the example's folder
  # @return [String] path of the master
  def kept_once(name, copy, by: nil, &block)
    by ||= block.source_location.first
    master = Masters.of(name, by:) do |path|
      made = "made-#{File.basename(path)}"
      block.call(made)
      run('mv', file(made), path)
    end
    run('cp', '-r', '--sparse=always', master, copy)
    master
  end

  # GPT with a FAT32, an ext4 and a swap; 700 MB, of which little is used.
  def three_parts(name = 'disk.raw', size: 700 * (10**6) / 512 * 512)
    made_once("three-parts-#{size}", name) { |made| make_three_parts(made, size) }
  end

  def make_three_parts(name, size)
    path = partitioned(name, size, <<~SCRIPT)
      label: gpt
      size=64M, type=U, name="Start-up"
      size=400M, type=4F68BCE3-E8CD-4DB1-96E7-FBCAF984B709, name="System"
      size=32M, type=S, name="Swap"
    SCRIPT
    copy_in(fat("#{name}-startup", 64 * MIB, 32), path, MIB)
    run('mke2fs', '-q', '-F', '-t', 'ext4', '-L', 'System', '-E', "offset=#{65 * MIB}", '-d', tree, path, '400M')
    copy_in(sparse("#{name}-swap", 32 * MIB).tap { |swap| run('mkswap', '-q', '-L', 'spare', swap) }, path, 465 * MIB)
  end

  def copy_in(source, disk, offset)
    run('dd', "if=#{source}", "of=#{disk}", 'bs=1M', "seek=#{offset / MIB}", 'conv=notrunc,sparse', 'status=none')
  end

  # @return [String] folder of an image of the disk; of a disk as it was made once, the image is taken once too
  def captured(disk, name = 'image', **about)
    master, changed = COPIES[disk]
    return capture(disk, name, about) if master.nil? || File.mtime(disk) != changed || File.exist?(file(name))

    kept_once("captured #{File.basename(master)} #{about.inspect}", file(name)) { |made| capture(disk, made, about) }
    file(name)
  end

  def capture(disk, name, about)
    open_disk(disk) { |opened| Evrel::Image::Capture.new(opened, file(name), about:).run }
    file(name)
  end

  # Restores without the application, as `bin/evrel restore` does.
  # @param faults [Hash, nil] of the target, as in Disk::Faulty
  def restore(image, target, faults: nil, **options, &block)
    open_disk(target, writable: true) do |disk|
      opened = Evrel::Image.open(image)
      plan = Evrel::Layout.as_in_image(opened, disk)
      disk = StandIns::Disk::Faulty.new(disk, **faults) if faults
      Evrel::Restore::Engine.new(image: opened, target: disk, plan:, waits: [0.0, 0.0], **options).run(&block)
    ensure
      opened&.close
    end
  end

  # A copy with some bytes changed, the same for the same seed.
  # @param places [Array<Range>] where the structures are: a byte elsewhere only changes contents
  def flipped(source, places, seed)
    random = Random.new(seed)
    copy = file("flipped-#{seed}")
    run('cp', '--sparse=always', source, copy)
    random.rand(1..4).times { File.binwrite(copy, random.bytes(1), random.rand(places.sample(random:))) }
    copy
  end

  # Changes one byte in the middle of a file.
  def flip(path, offset)
    byte = File.binread(path, 1, offset).ord
    File.binwrite(path, (byte ^ 0xFF).chr, offset)
  end
end
