# frozen_string_literal: true

require_relative '../../stand_ins/disk'

RSpec.describe Evrel::Restore::GoingBack do
  # Remembers in which order clusters were asked for, and how often.
  let(:remembering) do
    Class.new(Evrel::Disk::Wrapper) do
      attr_reader :asked
      attr_accessor :ends_at

      def read_bytes(offset, length)
        (@asked ||= []) << (offset / Evrel::Image::CLUSTER)
        raise Evrel::Away, 'the drive does not answer any more' if @asked.last == ends_at

        super
      end
    end
  end
  let(:disk) do
    three_parts.tap do |path|
      File.binwrite(file('large'), Random.new(4).bytes(16 * Disks::MIB))
      run('debugfs', '-w', '-R', "write #{file('large')} large", "#{path}?offset=#{65 * Disks::MIB}")
    end
  end
  let(:target) { sparse('target', File.size(disk)) }
  let(:scratch) { Evrel::Restore::Scratch.new(file('scratch')) }
  # Clusters with the contents of a file.
  let(:first) do
    found = open_disk(disk) { |opened| opened.extents.find { |offset, length| offset > 65 * Disks::MIB && length >= 12 * Disks::MIB } }
    (found.first >> 16) + 96
  end
  let(:bad) { [(first << 16) + 1024, ((first + 9) << 16) + 5120] }
  let(:reluctant) { ((first + 40) << 16) + 512 }

  def failing(unreadable: bad.map { |at| [at, 512] })
    remembering.new(StandIns::Disk::Faulty.new(Evrel::Disk::File.open(disk), unreadable:, reluctant: [[reluctant, 2, 0]]))
  end

  def source(drive)
    Evrel::Image::Live.new(drive, uid: 'a drive', taken_at: Time.now).tap do |one|
      one.keep_digests(Evrel::Image::FirstRead.new(file('digests'), 'a drive'))
    end
  end

  # @return [Evrel::Restore::Result]
  def move(drive, wish: { 'way' => 'as_in_image' }, onto: target, **decided, &block)
    image = source(drive)
    open_disk(onto, writable: true) do |opened|
      plan = Evrel::Layout::Planner.new(Evrel::Layout::Source.of(image), Evrel::Layout::Target.of(opened), wish).plan.valid!
      journal = Evrel::Restore::Journal.new(file('journal'), { image: 'a drive' })
      Evrel::Restore::Engine.new(image:, target: opened, plan:, journal:, scratch:, waits: [9.0],
                                 decisions: Evrel::Restore::Decisions.new(**decided)).run(&block)
    end
  ensure
    image&.close
  end

  # As it should be, with zeros where the drive gives nothing.
  def with_zeros
    File.binread(disk).tap { |bytes| bad.each { |at| bytes[at, 512] = "\0" * 512 } }
  end

  it 'writes all that is easy first, and goes on from what it has when somebody has decided about the rest' do
    drive = failing
    told = []
    expect { move(drive) { |progress| told << progress.back and nil } }.to raise_error(Evrel::Restore::Trouble) { |e|
      expect(e).to have_attributes(kind: :unreadable, side: :source, cluster: first, part: 2)
    }
    again = drive.asked.index.with_index { |number, at| at > drive.asked.index(first) && number == first }
    expect(drive.asked.index(drive.asked.max)).to be < again
    expect(told.compact.map { |back| back[:pass] }.uniq).to eq(%i[edges middles sectors again])
    expect(told.compact.last).to include(bad: 1024)

    goes_on = failing
    result = move(goes_on, zeros: [first, first + 9])
    expect(result).to have_attributes(verified?: true, late: be > 16)
    expect(result.taken).to contain_exactly(include(cluster: first, how: 'zeros'), include(cluster: first + 9, how: 'zeros'))
    expect(goes_on.asked & [first, first + 9, first + 40]).to eq([])
    expect(File.binread(target) == with_zeros).to be(true)
  end

  it 'leaps over a region that gives nothing, and comes back for its edges' do
    region = [(first + 4) << 16, 40 << 16]
    drive = failing(unreadable: [region])
    expect { move(drive) }.to raise_error(Evrel::Restore::Trouble, /cannot be read, however/)
    sweep = drive.asked.take(drive.asked.index(drive.asked.max))
    expect(sweep.count { |number| number.between?(first + 4, first + 43) }).to be < 8
    expect(move(failing(unreadable: [region]), zeros: ((first + 4)..(first + 43)).to_a)).to be_verified
    kept = File.binread(disk).tap { |bytes| bytes[region.first, region.last] = "\0" * region.last }
    expect(File.binread(target) == kept).to be(true)
  end

  it 'asks nobody where a second look gives everything' do
    expect(move(failing(unreadable: []))).to have_attributes(verified?: true, taken: [])
    expect(run('qemu-img', 'compare', disk, target)).to include('identical')
  end

  it 'is stopped on the way, and goes on' do
    expect { move(failing) { |progress| :stop if progress.back } }.to raise_error(Evrel::Stopped, /can go on|going back/)
    expect(move(failing, zeros: [first, first + 9])).to be_verified
    expect(File.binread(target) == with_zeros).to be(true)
  end

  it 'goes back to what nobody has asked for yet, whatever was decided about its part' do
    expect(move(failing, zeros_in: [2])).to be_verified
    expect(File.binread(target) == with_zeros).to be(true)
  end

  it 'serves a part that is brought to another size before it is written' do
    smaller = sparse('smaller', File.size(disk) - (300 * Disks::MIB))
    wish = { 'way' => 'shrink', 'air' => 0 }
    expect { move(failing, wish:, onto: smaller) }.to raise_error(Evrel::Restore::Trouble) { |e| expect(e.cluster).to eq(first) }
    expect(File.binread(smaller, Disks::MIB).count("\0")).to eq(Disks::MIB)
    expect(move(failing, wish:, onto: smaller, zeros: [first, first + 9])).to be_verified
    expect(run('sfdisk', '--verify', smaller)).to include('No errors')
  end

  it 'leaves nothing for later where several are written at once: each would leave something else' do
    image = source(failing)
    paths = Array.new(2) { |at| sparse("row-#{at}", File.size(disk)) }
    outcomes = Evrel::Restore::Many.new(image, paths, scratch: file('.'), wish: { 'way' => 'as_in_image' }).run
    expect(outcomes.map(&:error)).to all(be_a(Evrel::Restore::Trouble).and(have_attributes(kind: :unreadable)))
  ensure
    image&.close
  end

  it 'goes on in the next part when it went back in one that was brought to another size' do
    startup = open_disk(disk) { |one| one.extents.select { |offset, length| offset + length <= 65 * Disks::MIB }.last.sum - 512 }
    smaller = sparse('smaller', File.size(disk) - (300 * Disks::MIB))
    places = [*bad, startup].map { |at| [at, 512] }
    wish = { 'way' => 'shrink', 'air' => 0 }
    expect { move(failing(unreadable: places), wish:, onto: smaller, zeros: [first, first + 9]) }
      .to raise_error(Evrel::Restore::Trouble, /cannot be read, however/) { |e| expect(e.cluster).to eq(startup >> 16) }
  end

  it 'takes one that falls silent for one that is away, and for nothing else' do
    drive = remembering.new(Evrel::Disk::File.open(disk)).tap { |one| one.ends_at = first }
    expect { move(drive) }.to raise_error(Evrel::Restore::Trouble) { |e| expect(e).to have_attributes(kind: :away, side: :source) }
    expect(move(Evrel::Disk::File.open(disk))).to be_verified
    expect(run('qemu-img', 'compare', disk, target)).to include('identical')
  end
end
