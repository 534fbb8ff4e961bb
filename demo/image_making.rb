# frozen_string_literal: true

require 'fileutils'

module Demo
  # Images of made disks, in every shape that people keep them in. @work is a
  # folder for what lies in between, @places where the images go.
  module ImageMaking
    private

    # As Evrel takes it; the disk's file goes.
    # @param unreadable [Array<(Integer, Integer)>] places where the drive gives nothing
    def capture(disk, folder, time, about, unreadable: [])
      Evrel::Disk::File.open(disk) do |opened|
        opened = StandIns::Disk::Faulty.new(opened, unreadable:) if unreadable.any?
        Evrel::Image::Capture.new(opened, folder, about:, taken_at: time, tolerate_unread: unreadable.any?).run
      end
      stamp(Dir[File.join(folder, '*')], time)
    ensure
      FileUtils.rm_f(disk)
    end

    def convert(disk, format, folder, name, time)
      FileUtils.mkdir_p(folder)
      Demo.run('qemu-img', 'convert', '-O', format, disk, File.join(folder, name))
      stamp([File.join(folder, name)], time)
    end

    def overlay(base, name, time)
      folder = @places[:office]
      Demo.run('qemu-img', 'create', '-q', '-f', 'qcow2', '-b', base, '-F', 'qcow2', File.join(folder, name))
      Demo.run('qemu-io', '-c', "write -P 65 #{500 * (1024**2)} 64k", File.join(folder, name))
      stamp([File.join(folder, name)], time)
    end

    def packed(disk, tool, folder, name, time)
      path = File.join(folder, name)
      FileUtils.mkdir_p(File.dirname(path))
      system(*tool, '-c', in: disk, out: path, exception: true)
      stamp([path], time)
    end

    def split(disk, folder, name, time)
      FileUtils.mkdir_p(folder)
      Demo.run('qemu-img', 'convert', '-O', 'qcow2', '-c', '-o', 'compression_type=zstd', disk, "#{@work}/whole.qcow2")
      Demo.run('split', '-b', '12M', '-d', '-a', '3', '--numeric-suffixes=1', "#{@work}/whole.qcow2", File.join(folder, "#{name}."))
      stamp(Dir[File.join(folder, "#{name}.0*")], time)
    end

    # In the middle of two scans, which are kept as they are: they do not pack.
    def damage(path)
      bytes = File.binread(path)
      [0, 1].each do |scan|
        [200_000, 700_000].first(scan + 1).each do |within|
          at = bytes.index(Random.new(scan).bytes(OfficeFiles::MB).byteslice(within, 32)) or raise "scan #{scan} is not there"
          File.binwrite(path, (bytes.getbyte(at) ^ 0xFF).chr, at)
        end
      end
    end

    def stamp(paths, time) = paths.each { |path| File.utime(time, time, path) }
  end
end
