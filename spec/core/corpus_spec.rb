# frozen_string_literal: true

require 'timeout'
require_relative '../fixtures/broken'

# Whatever is broken: a typed error or a true answer, in bounded time and memory.
RSpec.describe 'Broken images and volumes' do
  include Broken::Making

  memory = 1500 * (1024**2)
  patience = 90
  flips = Effort.all? ? 100 : 10

  # Everything that can be asked of an image.
  def exhaust(path)
    shelf, name = Evrel::Shelf::Folder.around(path)
    Evrel::Image::Opener.new(shelf, name).recognise
    image = Evrel::Image.open(path, kept: Evrel::Image::Kept.new(file('kept')))
    image.manifest
    Evrel::Image::Check.new(image).run
    Evrel::Startup.chain(image.disk)
    contents = Evrel::Image::Contents.new(image)
    contents.each_entry(most: 2000).first(300).each { |part, entry| read(contents.volume(part), entry) }
  ensure
    image&.close
  end

  def read(volume, entry)
    return unless entry.file?

    raise "#{entry.path.inspect} is no safe name" if entry.name.match?(%r{[/\0]})

    volume.file_head(entry.path, 200_000)
    volume.file_extents(entry).first(1000)
  rescue Evrel::Error
    nil
  end

  # In a process of its own, which may not take more memory than that.
  # @return [String] "fine", the name of a typed error, or what went wrong
  define_method(:outcome) do |path|
    reader, writer = IO.pipe
    pid = fork do
      reader.close
      Process.setrlimit(:AS, memory)
      writer << begin
        Timeout.timeout(patience) { exhaust(path) }
        'fine'
      rescue Evrel::Error => e
        "#{e.class}: #{e.message}"
      rescue Exception => e # rubocop:disable Lint/RescueException -- whatever it is, it must not be
        "NOT TYPED #{e.class}: #{e.message} #{e.backtrace.first(4).join(' ')}"
      end
      writer.close
      exit!(0)
    end
    writer.close
    reader.read.tap { Process.wait(pid) }
  end

  Broken::KINDS.each do |name, make|
    it "answers #{name}" do
      expect(outcome(instance_exec(&make))).to match(/\A(fine|Evrel::)/)
    end
  end

  { 'MBR tables' => [-> { formats_disk }, [446..511, 440..511]],
    'NTFS boot sectors and records' => [-> { broken_ntfs { |path| path } }, [0..80, 16_384..60_000, 4_000_000..4_060_000]],
    'qcow2 headers and tables' => [-> { broken_qcow2 { |path| path } }, [0..111, 65_536..66_000, 196_608..197_000, 262_144..263_000]] }
    .each do |name, (make, places)|
    it "answers flipped bytes in #{name}" do
      source = instance_exec(&make)
      places += ntfs_places(source) if name.start_with?('NTFS')
      wrong = (0...flips).filter_map do |seed|
        copy = flipped(source, places, seed)
        said = outcome(copy)
        File.delete(copy)
        "seed #{seed}: #{said}" unless said.match?(/\A(fine|Evrel::)/)
      end
      expect(wrong).to be_empty
    end
  end

  def formats_disk = mbr([0x80, 0x83, 2048, 40_000], [0, 5, 45_056, 50_000])

  # Where its records are.
  def ntfs_places(path)
    mft = File.binread(path, 8, 48).unpack1('Q<') * 1024
    [mft..(mft + (8 * 1024)), (mft + (24 * 1024))..(mft + (65 * 1024))]
  end

  it 'keeps names that would make another path of it, or turn the direction of writing, from doing so' do
    path = ext('v', 30 * Broken::MIB, '-t', 'ext4', '-O', '^metadata_csum', from: tree('AAAAA' => 'x', 'BBBBB' => 'y', 'CCCCC' => 'z'))
    bytes = File.binread(path)
    { 'AAAAA' => '../up', 'BBBBB' => "ab\ncd", 'CCCCC' => "\u202Egp" }.each { |from, to| bytes.sub!(from.b, to.b.ljust(5, '_')[0, 5]) }
    File.binwrite(path, bytes)
    volume = Evrel::Volume.recognise(open_disk(path))
    names = volume.entries.map(&:name)
    expect(names).to include('.._up')
    safe = names.map { |name| Evrel::Archive.safe_name(name) }
    expect(safe.join).not_to match(%r{[/\n\u202E]})
  end
end
