# frozen_string_literal: true

require_relative 'starting_disk'

module Demo
  # A disk with a start-up part and an NTFS volume full of office files. It
  # holds no system that could be started.
  class NtfsDisk
    MIB = 1024**2
    ESP_MIB = 100

    # @param path [String] the disk's file, already of its size
    # @param guid [String] the disk's identity
    # @param volume_mib [Integer] of the NTFS volume
    def initialize(path, guid:, files:, volume_mib:)
      @path = path
      @guid = guid
      @files = files
      @volume_mib = volume_mib
    end

    def build
      Dir.mktmpdir('evrel-demo') do |work|
        @work = work
        Demo.run('sfdisk', '-q', @path, input: <<~SCRIPT)
          label: gpt
          label-id: #{@guid}
          start=2048, size=#{ESP_MIB * 2048}, type=U, name="Start-up"
          size=32768, type=E3C9E316-0B5C-4DB8-817D-F92DF00215AE, name="Reserved"
          size=#{@volume_mib * 2048}, type=EBD0A0A2-B9E5-4433-87C0-68B6B72699C7, name="Office"
        SCRIPT
        write_startup
        write_office
      end
    end

    private

    def write_startup
      volume = sized('startup', ESP_MIB)
      Demo.run('mkfs.vfat', '-F', '32', '-n', 'STARTUP', volume)
      copy(volume, MIB)
    end

    def write_office
      volume = sized('office', @volume_mib)
      Demo.run('mkntfs', '-q', '-F', '-Q', '-L', 'Office', volume)
      mounted(volume) { |folder| Demo.write_files(folder, @files) }
      copy(volume, (ESP_MIB + 1 + 16) * MIB)
    end

    # Where nothing can be mounted, at least the files of the top are there.
    def mounted(volume)
      folder = "#{@work}/mnt"
      FileUtils.mkdir_p(folder)
      Demo.run('ntfs-3g', '-o', 'compression', volume, folder)
      yield folder
    rescue RuntimeError
      @files.first(20).each do |name, (content, _)|
        File.binwrite("#{@work}/file", content)
        Demo.run('ntfscp', '-f', '-q', volume, "#{@work}/file", File.basename(name))
      end
    else
      Demo.run('umount', folder)
    end

    def sized(name, mib) = "#{@work}/#{name}".tap { |path| File.open(path, 'w') { |io| io.truncate(mib * MIB) } }

    def copy(volume, offset)
      Demo.run('dd', "if=#{volume}", "of=#{@path}", 'bs=1M', "seek=#{offset / MIB}", 'conv=notrunc,sparse', 'status=none')
    end
  end
end
