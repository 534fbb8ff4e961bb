# frozen_string_literal: true

RSpec.describe Evrel::Restore::Many, :in_memory do
  let(:disk) { three_parts }
  let(:image) { Evrel::Image.open(captured(disk)) }
  let(:clusters) { image.manifest.stored_clusters }
  let(:plain) { { 'way' => 'as_in_image' } }

  after { image.close }

  def targets(count, size: File.size(disk)) = Array.new(count) { |number| sparse("target-#{number}", size) }
  def many(paths, **how) = described_class.new(image, paths, scratch: file('.'), **how)

  it 'reads each cluster once for all, and each target ends byte for byte as it would alone' do
    paths = targets(8)
    run = many(paths, wish: plain)
    expect(run.run).to all(have_attributes(written?: true, error: nil))
    expect(run.read).to be_between(clusters * 0.95, clusters * 1.1)
    alone = sparse('alone', File.size(disk))
    open_disk(alone, writable: true) do |target|
      Evrel::Restore::Engine.new(image:, target:, plan: Evrel::Layout.as_in_image(image, target)).run
    end
    expect(paths.map { |path| same?(alone, path) }).to all(be(true))
  end

  it 'holds nobody up for a slow one, which reads for itself what was dropped meanwhile, within its bound of memory' do
    paths = targets(3)
    slow = paths.last
    run = many(paths, wish: plain, room: 2 * Disks::MIB)
    ended = []
    outcomes = run.run do |path, progress|
      sleep 0.05 if path == slow && progress.kind == :part
      ended << path if progress.order == 'table'
      nil
    end
    expect(outcomes).to all(have_attributes(written?: true))
    expect(ended.last).to eq(slow)
    expect(paths.combination(2).map { |one, two| same?(one, two) }).to all(be(true))
  end

  it 'gives each identities of its own, and names them where they are named' do
    paths = targets(3)
    expect(many(paths).run).to all(have_attributes(written?: true))
    tables = paths.map { |path| open_disk(path) { |opened| Evrel::Table.read(opened) } }
    guids = tables.flat_map { |table| [table.guid, *table.partitions.map(&:guid)] } + [image.table.guid]
    expect(guids.uniq.size).to eq(guids.size)
    paths.each { |path| expect(run('sfdisk', '--verify', path)).to include('No errors') }
  end

  it 'lets one that is too small, and one that is missing, leave the row, and writes the others' do
    paths = [*targets(2), sparse('small', 20 * Disks::MIB), file('missing')]
    first, second, small, missing = many(paths, wish: plain).run
    expect([first, second]).to all(have_attributes(written?: true))
    expect(small.error).to be_a(Evrel::DoesNotFit).or be_a(Evrel::Refused)
    expect(missing.error).to be_a(Evrel::Unreadable)
  end

  it 'writes by itself what the processes that wrote for it did not take' do
    paths = targets(3)
    helpers = nil
    allow(Evrel::Helpers).to(receive(:new).and_wrap_original { |made, **how| helpers = made.call(**how) })
    run = many(paths, wish: plain, read_back: false)
    ended = []
    expect(run.run { ended << end_of(helpers) if ended.empty? }).to all(have_attributes(written?: true))
    expect(ended.flatten.size).to eq(Evrel::Crew.strength)
    expect(paths.combination(2).map { |one, two| same?(one, two) }).to all(be(true))
    open_disk(paths.first) { |opened| expect(opened.read(65 * Disks::MIB, 4096)).to eq(open_disk(disk) { |of| of.read(65 * Disks::MIB, 4096) }) }
  end

  # @return [Array<Integer>] process ids that were killed
  def end_of(helpers) = helpers.instance_variable_get(:@members).map(&:pid).each { |pid| Process.kill(:KILL, pid) }

  it 'reads all of them back at the same time, and writes again what one of them did not keep' do
    paths = targets(3)
    spoiled = false
    outcomes = many(paths, wish: plain).run do |path, progress|
      next unless path == paths[1] && progress.kind == :read_back && !spoiled

      spoiled = true
      at = image.digests.each_batch(batch: 100).first.last.first * Evrel::Image::CLUSTER
      File.binwrite(path, 'other bytes', at)
      nil
    end
    expect(outcomes).to all(have_attributes(written?: true))
    expect(outcomes.map { |one| one.result.rewritten }).to eq([0, 1, 0])
    expect(paths.combination(2).map { |one, two| same?(one, two) }).to all(be(true))
  end
end
