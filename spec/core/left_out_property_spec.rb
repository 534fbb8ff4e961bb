# frozen_string_literal: true

# Places in what describes a volume are flipped, zeroed or cut off: whatever the
# checker of its kind still recovers from the broken volume it recovers from what
# an image of it would hold, too. 60 places, with EVREL_EFFORT=all two thousand.
RSpec.describe Evrel::Image::LeftOut, :in_memory do
  include DoubtfulVolumes
  include Recovered

  places = Effort.all? ? 2000 : 60
  # Kind of volume → how it is recovered.
  volumes = { csum: :ext, plain: :ext, uninit: :ext, mmp: :ext, clusters: :ext, fat12: :fat, fat16: :fat, fat32: :fat, ntfs: :ntfs,
              small_ntfs: :ntfs }
  volumes.delete(:mmp) unless Effort.all? # its checker waits for 11 s wherever it finds more than that

  # Where the structures are, as the tools of each kind tell it.
  def metadata(path, kind)
    case kind
    when :ext then ext_metadata(path)
    when :fat then [0...(fat_at(path) + (2 * fat_bytes(path)) + 32_768)]
    else
      size = peek(path, 13, 1).ord * 512
      [0...512, mft_range(path, size, 48, 80), mft_range(path, size, 56, 4)] + [2, 5, 6].map { |record| run_range(path, size, record) }
    end
  end

  def ext_metadata(path)
    blocks = run('dumpe2fs', path).scan(/(?:bitmap at|table at|superblock at|descriptors at) (\d+)(?:-(\d+))?/)
    blocks.map { |first, last| (first.to_i * 1024)...(([last.to_i, first.to_i].max.clamp(0, first.to_i + 40) + 1) * 1024) }
  end

  def mft_range(path, size, field, records)
    at = peek(path, field, 8).unpack1('Q<') * size
    at...(at + (records * 1024))
  end

  def run_range(path, size, record)
    at = ntfs_run(path, record) * size
    at...(at + 4096)
  rescue RuntimeError, NoMethodError
    0...512 # it lies within its record
  end

  def broken(path, ranges, random)
    copy = file('broken')
    run('cp', '--sparse=always', path, copy)
    at = random.rand(ranges.sample(random:))
    case random.rand(10)
    when 0..5 then File.binwrite(copy, (peek(copy, at, 1).ord ^ (1 << random.rand(8))).chr, at)
    when 6..8 then File.binwrite(copy, "\0" * 512, at / 512 * 512)
    else File.truncate(copy, [at / 512 * 512, 65_536].max)
    end
    copy
  end

  # What an image would hold of it: all that is absent reads as zeros.
  # @return [String, nil] nil where nothing is absent
  def held(path)
    absent = open_disk(path) { |disk| described_class.new(Evrel::Image::UsedMap.new(disk), disk.size).each.to_a }
    return if absent.empty?

    run('cp', '--sparse=always', path, file('held'))
    open_disk(file('held'), writable: true) { |disk| absent.each { |range| disk.discard(range.offset, range.length) } }
    file('held')
  end

  volumes.each do |made_of, kind|
    it "loses no file of a volume of kind #{made_of} that is broken in #{places / volumes.size} places" do
      path = sound(made_of)
      ranges = metadata(path, kind)
      believed = 0
      lost = (0...(places / volumes.size)).filter_map do |round|
        source = broken(path, ranges, Random.new(round))
        copy = held(source) or next
        believed += 1
        folders = [[source, "before-#{round}"], [copy, "after-#{round}"]].map { |one, name| recovered(one, kind, name) }
        same = content?('diff', '-r', '--no-dereference', *folders)
        FileUtils.rm_rf(folders)
        "round #{round}" unless same
      end
      expect(lost).to be_empty
      puts "      #{believed} of #{places / volumes.size} were believed" if Effort.all?
    end
  end
end
