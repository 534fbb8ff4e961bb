# frozen_string_literal: true

# Tables of all kinds onto other disks, and what in a volume depends on its
# place; judged by tools that made none of it.
RSpec.describe Evrel::Layout do
  def mib = 1024**2

  def fitted(image, target, wish, sector: 512, firmware: nil)
    open_disk(target, writable: true, logical_sector: sector) do |to|
      opened = Evrel::Image.open(image)
      plan = planned(opened, to, wish, firmware).valid!
      Evrel::Restore::Engine.new(image: opened, target: to, plan:, scratch: Evrel::Restore::Scratch.new(file('scratch'))).run
      plan
    ensure
      opened&.close
    end
  end

  def planned(opened, disk, wish, firmware = nil)
    Evrel::Layout::Planner.new(described_class::Source.of(opened), described_class::Target.of(disk, firmware:), wish).plan
  end

  def dump(path) = run('sfdisk', '-d', path).lines.grep(/start=/).map { |line| line.split(' : ').last.delete(' ').strip }
  def facts(plan) = plan.checks.to_h { |fact| [fact.id, fact] }

  describe 'as a script' do
    let(:image) { captured(three_parts) }
    let(:target) { sparse('target', 2 * (10**9) / 512 * 512) }

    def plan(wish = { 'way' => 'grow', 'part' => 2 })
      open_disk(target) { |disk| planned(Evrel::Image.open(image), disk, wish) }
    end

    it 'makes the same table when sfdisk reads it' do
      run('sfdisk', '-q', target, input: described_class::Script.of(plan))
      by_sfdisk = dump(target)
      open_disk(target, writable: true) { |disk| plan.table.write(disk) }
      expect(dump(target)).to eq(by_sfdisk)
    end

    it 'comes back in as the same layout, from us and from sfdisk' do
      source = described_class::Source.of(Evrel::Image.open(image))
      run('sfdisk', '-q', target, input: described_class::Script.of(plan))
      [described_class::Script.of(plan), run('sfdisk', '-d', target)].each do |script|
        wish = described_class::Script.wish(script, source)
        expect(plan(wish).places.map { |place| [place.number, place.start, place.size] })
          .to eq(plan.places.map { |place| [place.number, place.start, place.size] })
      end
      short = described_class::Script.wish("size=100M, type=U\nsize=800M\n", source)
      expect(short).to eq('way' => 'by_hand', 'parts' => { '1' => { 'size' => 100 * mib }, '2' => { 'size' => 800 * mib } },
                          'leave_out' => [3])
    end

    it 'is refused with the line that is wrong' do
      source = described_class::Source.of(Evrel::Image.open(image))
      { '' => /names no partition/, "size=12parsecs\n" => /line 1 .*12parsecs/, "part9 : start=1, size=2\n" => /partition 9/,
        "\xFF\x00junk" => /names no partition/, ("x\n" * 3000) => /too many lines/ }.each do |script, problem|
        expect { described_class::Script.wish(script, source) }.to raise_error(Evrel::Refused, problem)
      end
    end
  end

  describe 'with an MBR' do
    # A card with a primary and three logical partitions, a loader in front of the first.
    let(:card) do
      partitioned('card.raw', 800 * mib, <<~SCRIPT).tap do |path|
        label: dos
        label-id: 0x5e1f3a90
        start=2048, size=200M, type=83, bootable
        start=411648, type=5
        start=413696, size=100M, type=83
        start=620544, size=64M, type=c
        start=753664, size=100M, type=83
      SCRIPT
        copy_in(ext('first', 200 * mib, '-L', 'System', '-b', '4096'), path, mib)
        copy_in(ext('fifth', 100 * mib, '-L', 'State', '-b', '4096'), path, 202 * mib)
        copy_in(fat('sixth', 64 * mib, 16), path, 303 * mib)
        copy_in(ext('seventh', 100 * mib, '-L', 'Pictures', '-b', '4096'), path, 368 * mib)
        File.binwrite(path, Random.new(5).bytes(30 * 512), 512)
      end
    end
    let(:image) { captured(card) }
    let(:target) { sparse('large.raw', 1600 * mib) }

    it 'grows a logical partition, moves those behind it, and carries the code in front' do
      plan = fitted(image, target, { 'way' => 'grow', 'part' => 5 })
      expect(run('sfdisk', '--verify', target)).to include('No errors detected')
      lines = dump(target)
      expect(lines.size).to eq(5)
      expect(lines[0]).to eq('start=2048,size=409600,type=83,bootable')
      expect(run('sfdisk', '-d', target)).to include('label-id: 0x5e1f3a90')
      expect(File.binread(target, 30 * 512, 512)).to eq(Random.new(5).bytes(30 * 512))
      plan.places.each { |place| run('e2fsck', '-f', '-n', "#{target}?offset=#{place.start}") unless place.number == 6 }
      sixth = plan.place_of(6)
      expect(File.binread(target, 4, sixth.start + 28).unpack1('V')).to eq(sixth.start / 512)
    end

    it 'keeps its numbers in a row where a logical one is left out, and rewrites nothing else' do
      plan = fitted(image, target, { 'way' => 'as_in_image', 'leave_out' => [5] })
      expect(plan.table.partitions.map { |part| [part.number, part.start] }).to eq([[1, mib], [5, 303 * mib], [6, 368 * mib]])
      expect(plan.renewed).to eq('5e1f3a90-06' => '5e1f3a90-05', '5e1f3a90-07' => '5e1f3a90-06')
    end

    it 'becomes a GPT, and says what that means for starting' do
      plan = fitted(image, target, { 'way' => 'grow', 'part' => 7, 'table' => 'gpt' }, firmware: 'uefi')
      expect(run('sgdisk', '-v', target)).to include('No problems found')
      expect(dump(target).size).to eq(4)
      expect(facts(plan)['table'].title).to eq('MBR becomes GPT')
      expect(facts(plan)['starts']).to have_attributes(state: :ask, detail: /no start-up part/)
    end

    it 'takes one of its logical partitions alone, and leaves the rest byte for byte' do
      fitted(image, target, {})
      others = -> { [held(target, below: 202 * mib), held(target, from: 303 * mib)] }
      before = others.call
      File.binwrite(target, 'spoiled' * 1000, (202 * mib) + 5000)
      fitted(image, target, { 'way' => 'part', 'part' => 5, 'over' => 5 })
      run('e2fsck', '-f', '-n', "#{target}?offset=#{202 * mib}")
      expect(others.call).to eq(before)
    end

    it 'takes a single part of a GPT, under the type that it has in an MBR' do
      fitted(image, target, {})
      gpt = three_parts('gpt.raw').tap { |path| run('sgdisk', '-t', '1:0700', path) }
      fitted(captured(gpt, 'gpt-image'), target, { 'way' => 'part', 'part' => 1, 'over' => 5 })
      expect(run('sfdisk', '--part-type', target, '5').strip).to eq('c')
    end

    it 'keeps old tracks where it is asked to, and is freed of them else' do
      old = partitioned('old.raw', 200 * mib, "label: dos\nstart=63, size=160587, type=83\nstart=160650, size=192780, type=83\n")
      image = captured(old, 'old-image')
      expect(facts(fitted(image, target,
                          { 'way' => 'shrink', 'align' => 'image' }))['alignment'].title).to eq('Kept on old tracks of 63 sectors')
      File.truncate(target, 0)
      File.truncate(target, 1600 * mib)
      expect(fitted(image, target, { 'way' => 'shrink' }).places.map { |place| place.start % mib }).to eq([0, 0])
    end
  end

  it 'keeps a hybrid MBR, with its partition where it comes to lie' do
    source = three_parts
    run('sgdisk', '-h', '1', source)
    target = sparse('target', 2 * (10**9) / 512 * 512)
    fitted(captured(source), target, { 'way' => 'by_hand', 'parts' => { '1' => { 'start' => 600 * mib } } })
    slots = File.binread(target, 64, 446).scan(/.{16}/mn).map { |slot| [slot.getbyte(4), slot.unpack1('@8V')] }
    expect(slots).to include([0xEF, 600 * 2048])
    expect(slots.map(&:first)).to include(0xEE)
    expect(run('sgdisk', '-v', target)).to include('No problems found')
  end

  it 'tells exFAT where it lies' do
    path = partitioned('exfat.raw', 300 * mib, "label: gpt\nstart=2048, size=200M\n")
    volume = sparse('volume', 200 * mib)
    run('mkfs.exfat', '-L', 'quay', volume)
    copy_in(volume, path, mib)
    target = sparse('target', 400 * mib)
    fitted(captured(path), target, { 'way' => 'by_hand', 'parts' => { '1' => { 'start' => 100 * mib } } })
    run('dd', "if=#{target}", "of=#{volume}", 'bs=1M', 'skip=100', 'count=200', 'status=none')
    expect(File.binread(volume, 8, 64).unpack1('Q<')).to eq(100 * 2048)
    run('fsck.exfat', '-n', volume)
  end

  it 'moves the block list of a loader with its partition' do
    path = partitioned('grub.raw', 300 * mib,
                       "label: gpt\nstart=2048, size=1M, type=#{Evrel::Table::Types::BIOS_BOOT}\nstart=4096, size=100M\n")
    core = "\0".b * 512
    core[0x1F4, 12] = [2049, 60, 0x820].pack('Q<vv')
    core[0x1E8, 12] = [2109, 7, 0xFA0].pack('Q<vv')
    File.binwrite(path, core, mib)
    File.binwrite(path, [2048].pack('Q<'), 0x5C)
    target = sparse('target', 300 * mib)
    fitted(captured(path), target, { 'way' => 'by_hand', 'parts' => { '1' => { 'start' => 200 * mib } } })
    moved = File.binread(target, 512, 200 * mib)
    expect([moved[0x1F4, 12], moved[0x1E8, 12]].map { |entry| entry.unpack('Q<vv') }).to eq([[409_601, 60, 0x820], [409_661, 7, 0xFA0]])
    expect(File.binread(target, 8, 0x5C).unpack1('Q<')).to eq(409_600)
  end

  it 'plans the numbers of the trade: 240 GB with 61 GB used, onto 480, 120 and 60' do
    source = trade_source
    plans = [480_103_981_056, 120_034_123_776, 60_022_480_896].map do |size|
      target = described_class::Target.new(size:, sector: 512, physical_sector: 4096, table: nil, firmware: 'uefi')
      described_class::Planner.new(source, target, described_class::Proposal.for(source, target).first).plan
    end
    expect(plans.map(&:valid?)).to eq([true, true, false])
    expect(plans[0].places.map(&:change)).to eq(['as is', 'grows', 'moves'])
    expect(plans[1].places.map(&:change)).to eq(['as is', 'shrinks', 'moves'])
    expect(plans[2].problem.title).to match(/\A2\.\d GB too small\z/)
    expect(plans[2].problem.detail).to match(/leave out Recovery|choose a drive of/)
  end

  # Start-up, system and recovery, with their sizes in MiB.
  let(:trade) { [[1, 'Start-up', :startup, 512], [2, 'System', :system, 227_000], [3, 'Recovery', :recovery, 1024]] }

  def trade_source
    at = mib
    partitions = trade.map do |number, name, _, size|
      first = at / 512
      at += size * mib
      Evrel::Table::Partition.new(number:, name:, type: described_class::Tables::TO_GPT['0x83'], attributes: 0, first_lba: first,
                                  guid: format('%<number>08x-0000-4000-8000-000000000000', number:), last_lba: (at / 512) - 1, sector: 512)
    end
    size = 240_057_409_536
    table = Evrel::Table::Gpt.new(sector: 512, guid: '8f0c6d52-3a1e-4b57-9c1d-5e2a7b40c3d1', first_usable: 34,
                                  last_usable: (size / 512) - 34, partitions:)
    parts = trade.zip(partitions).map { |(_, _, role), one| trade_part(role, one) }
    described_class::Source.new(kind: 'gpt', sector: 512, size:, table:, parts:)
  end

  def trade_part(role, one)
    limits = Evrel::Volume::Limits.fixed(one.size, 'it keeps its size')
    limits = Evrel::Volume::Limits.new(least: 61 * (10**9), most: nil, resizer: Evrel::Volume::ExtResizer) if role == :system
    described_class::Part.new(number: one.number, name: one.name, role:, type: one.type, guid: one.guid, attributes: 0, start: one.start,
                              size: one.size, limits:, logical: false,
                              volume: { 'kind' => 'ext4', 'used_bytes' => 61 * (10**9), 'size_bytes' => one.size, 'sector_size' => 512 })
  end
end
