# frozen_string_literal: true

RSpec.describe Evrel::Restore, 'over and over', :in_memory do
  include TinyDisk

  times = Effort.all? ? 200 : 48

  let(:faults) do
    [
      ->(_) { {} },
      ->(random) { { hiccups: random.rand(3..30) } },
      ->(random) { { unwritable: [[random.rand(TinyDisk::SIZE), 512]] } },
      ->(random) { { unreadable: [[random.rand(TinyDisk::SIZE), 512]] } },
      ->(random) { { flips: [[random.rand(TinyDisk::SIZE), random.rand(1..4096)]] } },
      ->(random) { { wears_out_after: random.rand(TinyDisk::SIZE / 4) } },
      ->(random) { { gives_out_after: random.rand(TinyDisk::SIZE / 2) } },
      ->(random) { { true_capacity: random.rand(10..39) * Disks::MIB } }
    ]
  end

  # What is used, as the drive itself gives it back: a false one may keep it in another place.
  def right?(path, faults)
    open_disk(path) do |disk|
      faulty = StandIns::Disk::Faulty.new(disk, true_capacity: faults[:true_capacity])
      used.all? { |offset, length| faulty.read(offset, length) == File.binread(@right, length, offset) }
    end
  end

  # Both copies of the table, and every cluster of the image.
  def used
    @used ||= tiny.last.table.pieces(TinyDisk::SIZE).map { |offset, bytes| [offset, bytes.bytesize] } +
              tiny.first.digests.each_batch.to_a.flatten(1).map { |index, _| [index * Evrel::Image::CLUSTER, Evrel::Image::CLUSTER] }
  end

  it "writes #{times} times onto drives with faults, and is never silently wrong" do
    write_tiny(@right = used_tiny('right', 0))
    seen = Hash.new(0)
    times.times do |seed|
      random = Random.new(seed)
      given = faults[seed % faults.size].call(random)
      target = used_tiny('target', 0)
      seen[outcome(target, given, skip_identical: random.rand(2).zero?)] += 1
      File.delete(target)
    end
    # It must have been hard, and not too hard.
    expect(seen.keys).to include(:right, :trouble, :found)
    expect(seen[:right]).to be > times / 4
  end

  # @return [Symbol] :right, :found (read back, and found wrong) or :trouble
  def outcome(target, faults, **options)
    result = write_tiny(target, wrap: ->(disk) { StandIns::Disk::Faulty.new(disk, **faults) }, **options)
    return wrong_and_found(target, faults) unless result.verified?

    expect(right?(target, faults)).to be(true), "verified, and wrong: #{faults}"
    :right
  rescue Evrel::Restore::Trouble
    wrong_and_found(target, faults)
    :trouble
  end

  # What is not verified must not look whole.
  def wrong_and_found(target, faults)
    expect(open_disk(target) { |disk| Evrel::Table.read(disk) }).to be_nil.or(satisfy { right?(target, faults) })
    :found
  end
end
