# frozen_string_literal: true

# Random images, targets and wishes as plain data, the same for the same seed.
class RandomLayouts
  MIB = 1024**2
  KINDS = [['ext4', :Ext], ['ntfs', :Ntfs], ['fat32', :Fat], ['swap', :Swap], ['xfs', nil], ['exfat', nil], ['unknown', nil]].freeze
  ROLES = %i[startup reserved system data recovery swap].freeze
  GPT_TYPES = %w[c12a7328-f81f-11d2-ba4b-00a0c93ec93b 0fc63daf-8483-4772-8e79-3d69d8477de4 21686148-6449-6e6f-744e-656564454649
                 ebd0a0a2-b9e5-4433-87c0-68b6b72699c7].freeze
  SIZES = [8 * (10**9), 64 * (10**9), 120_034_123_776, 240_057_409_536, 480_103_981_056, 4 * (10**12), 8 * (10**12)].freeze

  def initialize(seed) = @random = Random.new(seed)

  # @return [Array] source, target and wish
  def triple
    sector = pick([512, 512, 4096])
    size = pick(SIZES) / sector * sector
    source = source(pick(%w[gpt mbr]), sector, size)
    other = chance(80) ? sector : 4608 - sector
    target = Evrel::Layout::Target.new(size: pick([*SIZES, size]) / other * other, sector: other, physical_sector: 4096, table: nil,
                                       firmware: pick(['uefi', 'bios', nil]))
    [source, target, chance(15) ? absurd : wish(source, target)]
  end

  private

  def pick(list) = list[@random.rand(list.size)]
  def chance(percent) = @random.rand(100) < percent

  def source(kind, sector, size)
    places = places(kind, sector, size)
    table = kind == 'gpt' ? gpt(places, sector, size) : mbr(places, sector, size)
    parts = table.partitions.sort_by(&:first_lba).map { |one| part(one, table) }
    Evrel::Layout::Source.new(kind:, sector:, size:, table:, parts:)
  end

  # Runs of sectors in the order of the disk, some with gaps of one sector, some on old tracks.
  def places(kind, sector, size)
    count = pick([1, 2, 3, 4, 5, 6, 12, kind == 'gpt' ? 128 : 40])
    unit = pick([MIB / sector, MIB / sector, 63, 8, 1])
    room = (size / sector) - (kind == 'gpt' ? 80 : 1)
    at = unit == 1 ? 64 : up(64, unit)
    Array.new(count) do |index|
      share = (room - at) / (count - index)
      length = up(@random.rand(1..[share / pick([1, 2, 50]), 1].max), unit)
      first = at + (kind == 'mbr' ? unit : 0)
      break_at = first + length + (chance(20) ? 1 : 0)
      break_at = up(break_at, unit)
      next if break_at > room

      at = break_at
      [first, first + length - 1]
    end.compact
  end

  def up(number, unit) = (number + unit - 1) / unit * unit

  def gpt(places, sector, size)
    numbers = chance(30) ? (1..places.size).to_a.shuffle(random: @random) : (1..places.size).to_a
    partitions = places.each_with_index.map { |place, index| partition(numbers[index], place, sector, pick(GPT_TYPES), guid) }
    entries = 16_384 / sector
    Evrel::Table::Gpt.new(sector:, guid:, first_usable: 2 + entries, last_usable: (size / sector) - entries - 2,
                          partitions: partitions.sort_by(&:number))
  end

  def mbr(places, sector, size)
    primary = places.size > 4 ? 3 : places.size
    partitions = places.each_with_index.map do |place, index|
      number = index < primary ? index + 1 : 5 + index - primary
      partition(number, place, sector, pick(%w[0x83 0x07 0x0c 0x82]), format('%<sig>08x-%<number>02x', sig: 0xE7E1, number:))
    end
    Evrel::Table::MbrBuilder.new(sector:, signature: 0xE7E1, partitions:, boot_code: '', disk_size: size, gap: 1).build
  end

  def partition(number, (first, last), sector, type, guid)
    Evrel::Table::Partition.new(number:, type:, guid:, name: "Part #{number}", attributes: 0, first_lba: first, last_lba: last, sector:)
  end

  def guid = @random.bytes(16).unpack1('H*').sub(/(.{8})(.{4})(.{4})(.{4})/, '\1-\2-\3-\4-')

  def part(one, table)
    kind, way = pick(KINDS)
    used = @random.rand(1..one.size)
    limits = way ? resizable(used, one.size, way) : Evrel::Volume::Limits.fixed(one.size, 'it keeps its size')
    Evrel::Layout::Part.new(number: one.number, name: one.name, role: pick(ROLES), type: one.type, guid: one.guid, attributes: 0,
                            start: one.start, size: one.size, limits:, logical: table.kind == 'mbr' && one.number > 4,
                            volume: { 'kind' => kind, 'used_bytes' => used, 'size_bytes' => one.size, 'sector_size' => 512 })
  end

  def resizable(used, size, way)
    Evrel::Volume::Limits.new(least: used, most: pick([nil, nil, size * 2]), resizer: Evrel::Volume.const_get("#{way}Resizer"))
  end

  def wish(source, target)
    numbers = source.parts.map(&:number)
    wish = { 'way' => pick(%w[as_in_image grow spread shrink by_hand]) }
    wish['part'] = pick(numbers) if wish['way'] == 'grow' && chance(80)
    wish['by'] = pick(%w[size used]) if chance(50)
    wish['parts'] = by_hand(numbers, target) if wish['way'] == 'by_hand'
    wish.merge(settings(numbers, target))
  end

  def settings(numbers, target)
    { 'leave_out' => [pick(numbers)], 'free' => pick([0, '7%', 10**9, target.size]), 'table' => pick(%w[gpt mbr]), 'identity' => 'renew',
      'align' => 'image', 'air' => pick([0, 10, 50]) }.select { chance(20) }
  end

  def by_hand(numbers, target)
    numbers.select { chance(50) }.to_h do |number|
      [number.to_s, { 'start' => @random.rand(target.size), 'size' => @random.rand(1..target.size) }.select { chance(70) }]
    end
  end

  # What nobody would wish, and something must be answered to.
  def absurd
    places = [{ 'size' => 0 }, { 'size' => -(10**12) }, { 'start' => 2**80 }, { 'start' => 1, 'size' => (1 << 63) - 1 }, 7]
    pick([nil, [], 'all of it', { 'way' => 'sideways' }, { 'way' => 'grow', 'part' => -1 }, { 'way' => 'grow', 'part' => 10**30 },
          { 'free' => -5 }, { 'free' => '100%' }, { 'free' => 'lots' }, { 'leave_out' => [1, 'two'] }, { 'way' => 'part', 'part' => 1 },
          { 'way' => 'part', 'part' => 1, 'at' => 0 }, { 'table' => 'apm' }, { 'air' => 2.5 }, { 'strange' => true },
          { 'way' => 'by_hand', 'parts' => { '1; rm' => {} } }, { 'way' => 'by_hand', 'parts' => { '1' => pick(places) } }])
  end
end
