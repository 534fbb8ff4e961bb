# frozen_string_literal: true

# Disks that hold more than their table and their file systems speak of: marks
# of containers over a file system, and bytes in places that no volume counts.
module OddDisks
  MARK = 0xA92B4EFC
  SET = (1..16).to_a.pack('C*').freeze

  # A superblock of Linux md 1.x for its place.
  def md_new(at) = [MARK, 1, 0, 0].pack('V4') + SET + 'quay:0'.ljust(32, "\0") + ("\0" * 80).b + [at / 512].pack('Q<') + ("\0" * 104).b

  # One of md 0.90 in the byte order of its maker.
  def md_old(order)
    fields = [MARK, 0, 90, 3, 0, 0x01020304, 0, 1, 4096, 2, 2, 0, 0, 0x05060708, 0x090A0B0C, 0x0D0E0F10]
    fields.pack("#{order}*").ljust(4096, "\0".b)
  end

  def lvm_label(sector)
    uuid = 'abcdefghijklmnopqrstuvwxyzABCDEF'
    body = [32].pack('V') + 'LVM2 001' + uuid + [20 * Disks::MIB].pack('Q<')
    body = body.b.ljust(492, "\0".b)
    crc = body.each_byte.reduce(0xF597A6CF) { |sum, byte| 8.times.reduce(sum ^ byte) { |one, _| one.odd? ? (one >> 1) ^ 0xEDB88320 : one >> 1 } }
    'LABELONE'.b + [sector, crc].pack('Q<V') + body
  end

  def bcache_super = ("\0" * 8).b + [8, 1].pack('Q<Q<') + ['c68573f64e1a45ca8265f57f48ba6d81'].pack('H*') + SET + ("\0" * 16).b + 'quay'.ljust(32, "\0")

  # What each puts where on a volume of +size+ bytes, the kind that it is told as, and blkid's word for it.
  def containers(size)
    last = size - 512
    old = (size / 65_536 * 65_536) - 65_536
    one = (((size / 512) - 16) & ~7) * 512
    {
      'md 0.90' => [{ old => md_old('V') }, 'linux-raid', 'linux_raid_member'],
      'md 0.90 of another byte order' => [{ old => md_old('N') }, 'linux-raid', 'linux_raid_member'],
      'md 1.0' => [{ one => md_new(one) }, 'linux-raid', 'linux_raid_member'],
      'md 1.1' => [{ 0 => md_new(0) }, 'linux-raid', 'linux_raid_member'],
      'md 1.2' => [{ 4096 => md_new(4096) }, 'linux-raid', 'linux_raid_member'],
      'a firmware RAID of the common format' => [{ last => ['de11de11'].pack('H*') }, 'firmware-raid', 'ddf_raid_member'],
      'the same, at its second place' => [{ size - (257 * 512) => ['de11de11'].pack('H*') }, 'firmware-raid', nil],
      'a firmware RAID with its mark two sectors before the end' => [{ size - 1024 => ['496e74656c20526169642049534d2043666720536967 2e20'.delete(' ')].pack('H*') }, 'firmware-raid', nil],
      'another with its mark there' => [{ size - 1024 => ['4e5649444941'].pack('H*') }, 'firmware-raid', nil],
      'a firmware RAID with its mark in the last sector' => [{ last => ['245849444524'].pack('H*') }, 'firmware-raid', nil],
      'a firmware RAID with a sum over its mark' =>
        [{ last => "\x55\xAA\1".b.ljust(50, "\0".b).then { |bytes| bytes + [bytes.sum & 0xFF].pack('C') } }, 'firmware-raid', 'via_raid_member'],
      'a firmware RAID 11 sectors before the end' => [{ size - (11 * 512) => [0x5A7816F3].pack('V') }, 'firmware-raid', 'hpt45x_raid_member'],
      'a firmware RAID at the front' => [{ 4640 => [0x5A7816F0].pack('V') }, 'firmware-raid', 'hpt37x_raid_member'],
      'a firmware RAID 63 sectors before the end' => [{ size - (63 * 512) => ['50726f6d69736520546563686e6f6c6f67792c20496e632e'].pack('H*') }, 'firmware-raid', nil],
      'the same, far from it' => [{ size - (3087 * 512) => ['50726f6d69736520546563686e6f6c6f67792c20496e632e'].pack('H*') }, 'firmware-raid', nil],
      'logical volumes' => [{ 512 => lvm_label(1) }, 'lvm', 'LVM2_member'],
      'logical volumes, with the label in another sector' => [{ 0 => lvm_label(0) }, 'lvm', 'LVM2_member'],
      'logical volumes of the first kind' => [{ 0 => ['HM', 1].pack('a2v').ljust(44, "\0") + ('a' * 32) }, 'lvm', 'LVM1_member'],
      'a cached disk' => [{ 4096 => bcache_super }, 'bcache', 'bcache'],
      'an encrypted volume' => [{ 0 => ["LUKS\xBA\xBE".b, 1].pack('a6n').ljust(168, "\0") + '5e2c3f6a-1111-4222-8333-944455566677' }, 'luks1', 'crypto_LUKS'],
      'an encrypted volume of another maker' => [{ 0 => "\xEB\x52\x90-FVE-FS-".b }, 'bitlocker', 'BitLocker'],
      'the same with a FAT as its face' =>
        [{ 0 => "\xEB\x58\x90MSWIN4.1".b, 440 => [1_048_576].pack('Q<'), 1_048_576 => '-FVE-FS-' }, 'bitlocker', 'BitLocker'],
      'a replicated disk' => [{ size - 4096 => [1, 0, 0, 0, 0, 77].pack('Q>*') + [0, 0, 0, 0x8374026B].pack('N4') }, 'drbd', 'drbd'],
      'a tree of hashes' => [{ 0 => "verity\0\0".b + [1, 1].pack('VV') + SET }, 'verity', 'DM_verity_hash'],
      'a snapshot' => [{ 0 => 'SnAp' }, 'snapshot', 'DM_snapshot_cow'],
      'a journal of checksums' => [{ 0 => "integrt\0\1".b }, 'integrity', 'DM_integrity']
    }
  end

  # A pool's label: what it is called, and four of its uberblocks.
  def zfs_label
    pairs = [['version', 8, [5000].pack('Q>')], ['name', 9, [4].pack('N') + 'tide'], ['pool_guid', 8, [1234].pack('Q>')]].map do |name, type, value|
      padded = name.ljust((name.size + 3) / 4 * 4, "\0")
      body = [name.size].pack('N') + padded + [type, 1].pack('NN') + value
      [body.bytesize + 8, 0].pack('NN') + body
    end
    names = [0x01010000, 0, 1].pack('N3') + pairs.join
    bytes = ("\0" * 262_144).b
    bytes[16_384, names.bytesize] = names
    4.times { |index| bytes[131_072 + (index * 1024), 40] = [0x00BAB10C, 5000, index + 1, 1234, 0].pack('Q<5') }
    bytes
  end

  def noise(seed, length) = Random.new(seed).bytes(length)

  # A GPT disk with an ext4 from 8 to 28 MiB, and one from 40 to 60 of 64 MiB in all.
  def two_parts(name = 'disk.raw', types: %w[L L], label: 'gpt')
    path = partitioned(name, 64 * Disks::MIB, "label: #{label}\nstart=16384, size=40960, type=#{types[0]}\nstart=81920, size=40960, type=#{types[1]}\n")
    [8, 40].each { |at| copy_in(sound(:csum), path, at * Disks::MIB) }
    path
  end
end
