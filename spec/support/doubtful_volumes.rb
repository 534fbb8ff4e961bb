# frozen_string_literal: true

# Volumes each of which is wrong in one way that real ones are: each is made of
# a sound one, and says how it is spoiled and what is then found. `nil` for
# what is found: nothing contradicts the map, and it is believed.
module DoubtfulVolumes
  EXT = {
    csum: %w[-t ext4 -b 1024 -O metadata_csum,^resize_inode -E lazy_itable_init=0],
    plain: %w[-t ext2 -b 1024 -O ^resize_inode],
    uninit: %w[-t ext4 -b 1024 -O ^metadata_csum,uninit_bg,^resize_inode],
    mmp: %w[-t ext4 -b 1024 -O ^metadata_csum,^resize_inode],
    clusters: %w[-t ext4 -b 1024 -O bigalloc,^resize_inode]
  }.freeze
  FAT = { fat12: 12, fat16: 16, fat32: 32 }.freeze
  SIZES = { fat12: 6, fat16: 20, fat32: 40, ntfs: 20, small_ntfs: 20 }.freeze

  # @return [String] path of a sound volume that may be spoiled
  def sound(kind)
    made_once("sound-#{kind}", "sound-#{kind}") do |name|
      if EXT.key?(kind) then filled_ext(name, kind)
      elsif FAT.key?(kind) then filled_fat(name, kind)
      else filled_ntfs(name, kind)
      end
    end
  end

  # More than one block group of them.
  def files
    @files ||= tree((1..12).to_h { |number| ["data/file-#{number}", Random.new(number).bytes((number * 90_000) + 700)] }
      .merge('etc/hostname' => "quay\n", 'data/empty' => ''))
  end

  # Made with protection against two mounts, it would be waited for: it is put on afterwards (-f: without a wait).
  def filled_ext(name, kind)
    path = ext(name, 20 * Disks::MIB, *EXT[kind], from: files)
    run('tune2fs', '-f', '-O', 'mmp', path) if kind == :mmp
    path
  end

  def filled_fat(name, kind)
    path = sparse(name, SIZES[kind] * Disks::MIB)
    run('mkfs.vfat', '-F', FAT[kind].to_s, '-s', kind == :fat12 ? '4' : '1', '-n', 'HOLM', path)
    run('mmd', '-i', path, '::data')
    run('mcopy', '-i', path, *Dir["#{files}/data/file-[1-8]"], '::data')
    path
  end

  def filled_ntfs(name, kind)
    path = sparse(name, SIZES[kind] * Disks::MIB)
    run('mkntfs', '-q', '-F', '-Q', '-L', 'Office', '-c', kind == :ntfs ? '4096' : '1024', path)
    Dir["#{files}/data/file-*"].each { |one| run('ntfscp', '-q', path, one, File.basename(one)) }
    path
  end

  def debugfs(path, *requests)
    run('debugfs', '-w', '-f', '/dev/stdin', path, input: "#{requests.join("\n")}\n")
  end

  def poke(path, offset, bytes) = File.binwrite(path, bytes, offset)
  def peek(path, offset, length) = File.binread(path, length, offset)

  # @return [Integer] a number that dumpe2fs tells of a group
  def group(path, number, what)
    text = run('dumpe2fs', path)[/^Group #{number}:.*?(?=^Group|\z)/m]
    text[what, 1].to_i
  end

  def bitmap_of(path, number) = group(path, number, /Block bitmap at (\d+)/) * 1024
  def descriptor_of(number) = 2048 + (number * 32)
  def descriptor_of64(number) = 2048 + (number * 64)
  def inode_of(path, name) = run('debugfs', '-R', "stat #{name}", path)[/Inode: (\d+)/, 1].to_i
  def block_of(path, name, index = 0) = run('debugfs', '-R', "bmap #{name} #{index}", path).lines.last.to_i
  def index_of(path, name) = run('debugfs', '-R', "stat #{name}", path)[/\(IND\):(\d+)/, 1].to_i

  # Byte of an inode on the volume.
  def inode_at(path, name)
    text = run('debugfs', '-R', "imap #{name}", path)
    (text[/located at block (\d+)/, 1].to_i * 1024) + text[/offset 0x(\h+)/, 1].hex
  end

  # Counts what a superblock and a group say is free one more or less.
  def count_free(path, number, by)
    free = group(path, number, /(\d+) free blocks/)
    total = run('dumpe2fs', '-h', path)[/Free blocks:\s+(\d+)/, 1].to_i
    debugfs(path, "set_bg #{number} free_blocks_count #{free + by}", "ssv free_blocks_count #{total + by}")
  end

  # Takes a block out of the map in a way that every counter agrees with.
  def call_free(path, block)
    number = (block - 1) / 8192
    debugfs(path, "freeb #{block}")
    count_free(path, number, 1) unless group(path, number, /(\d+) free blocks/) == free_bits(path, number)
  end

  # Its block is given back; the superblock still names it, and counts it as free (at 0x0C). debugfs would wait for it.
  def give_up_protection(path)
    named = peek(path, 1024, 1024)
    run('tune2fs', '-f', '-O', '^mmp', path)
    poke(path, 1024, named)
    poke(path, 1024 + 0x0C, [named.unpack1('V', offset: 0x0C) + 1].pack('V'))
  end

  def free_bits(path, number)
    last = run('dumpe2fs', '-h', path)[/Block count:\s+(\d+)/, 1].to_i - 1
    length = [8192, last - (number * 8192)].min
    length - peek(path, bitmap_of(path, number), 1024).unpack1("b#{length}").count('1')
  end

  def ext_cases
    file = '/data/file-12'
    {
      'a zeroed sector in a bitmap, with checksums' =>
        [:csum, ->(path) { poke(path, bitmap_of(path, 1), "\0" * 512) }, /block group 1: bitmap does not match its checksum/],
      'a zeroed sector in a bitmap, without checksums' =>
        [:plain, ->(path) { poke(path, bitmap_of(path, 1), "\0" * 512) }, /block group 1: \d+ blocks are free in its bitmap/],
      'a whole bitmap of zeros' => [:uninit, ->(path) { poke(path, bitmap_of(path, 0), "\0" * 1024) }, /block group 0: \d+ blocks are free/],
      'a flipped bit in a bitmap' => [:csum, ->(path) { flip(path, bitmap_of(path, 0) + 300) }, /block group 0: bitmap/],
      'a block that counts as free everywhere, and belongs to a file' =>
        [:plain, ->(path) { call_free(path, block_of(path, file, 5)) }, /blocks of inode \d+, at block \d+, count as free/],
      'an indirect block that counts as free' =>
        [:plain, ->(path) { call_free(path, index_of(path, file)) }, /blocks of inode \d+/],
      'a directory that counts as free' => [:plain, ->(path) { call_free(path, block_of(path, '/data')) }, /blocks of inode \d+/],
      'an inode table that counts as free' =>
        [:plain, ->(path) { call_free(path, group(path, 0, /Inode table at (\d+)/) + 3) }, /what belongs to group 0 itself/],
      'a copy of the superblock that counts as free' => [:plain, ->(path) { call_free(path, 8193) }, /what belongs to group 1 itself/],
      'a bitmap that was said never to be written' =>
        [:uninit, lambda { |path|
          debugfs(path, 'set_bg 1 flags 0x2', 'set_bg 1 checksum calc')
        }, /block group 1: \d+ blocks are free/],
      'a bitmap that was said never to be written, and counters that agree' =>
        [:uninit, lambda { |path|
          used = group(path, 1, /(\d+) free blocks/)
          debugfs(path, 'set_bg 1 flags 0x2')
          free = Evrel::Disk::File.open(path) { |disk| Evrel::Volume.recognise(disk).then { |volume| volume.instance_variable_get(:@bitmaps).free(1) } }
          total = run('dumpe2fs', '-h', path)[/Free blocks:\s+(\d+)/, 1].to_i
          debugfs(path, "set_bg 1 free_blocks_count #{free}", 'set_bg 1 checksum calc', "ssv free_blocks_count #{total + free - used}")
        }, /blocks of inode \d+, at block \d+, count as free/],
      'a descriptor whose checksum is wrong' =>
        [:csum, ->(path) { flip(path, descriptor_of64(1) + 0x14) }, /descriptor of block group 1 does not match/],
      'an older descriptor whose checksum is wrong' =>
        [:uninit, ->(path) { flip(path, descriptor_of64(1) + 0x10) }, /descriptor of block group 1 does not match/],
      'a descriptor that counts otherwise' =>
        [:plain, ->(path) { poke(path, descriptor_of(0) + 0x0C, [1].pack('v')) }, /block group 0: \d+ blocks are free in its bitmap, 1 in/],
      'a descriptor that leads nowhere' => [:plain, ->(path) { poke(path, descriptor_of(1), [900_000].pack('V')) }, /structures in block 900000/],
      'a superblock that counts otherwise' => [:plain, ->(path) { poke(path, 1036, [5].pack('V')) }, /blocks are free by its groups, 5 by its/],
      'a superblock whose checksum is wrong' => [:csum, ->(path) { flip(path, 1024 + 0x3F0) }, /superblock does not match its checksum/],
      'a copy of the superblock that says otherwise' =>
        [:plain, ->(path) { poke(path, (8193 * 1024) + 0x28, [64].pack('V')) }, /copy of its superblock in group 1 says another inodes per group/],
      'a copy of the superblock that is none' => [:plain, ->(path) { poke(path, (8193 * 1024) + 0x38, "\0\0") }, /group 1 is none/],
      'an inode that points at a free block' =>
        [:plain, lambda { |path|
          debugfs(path, "sif <#{inode_of(path, '/etc/hostname')}> block[0] 19000")
        }, /blocks of inode \d+, at block 19000/],
      'an indirect block that points at a free block' =>
        [:plain, ->(path) { poke(path, (index_of(path, file) * 1024) + 20, [19_000].pack('V')) }, /blocks of inode \d+, at block 19000/],
      'an indirect block that points at a free block behind the end of the file' =>
        [:plain, ->(path) { poke(path, (index_of(path, '/data/file-1') * 1024) + 800, [19_000].pack('V')) }, /blocks of inode \d+, at block 19000/],
      'an inode that points outside' =>
        [:plain, ->(path) { debugfs(path, "sif <#{inode_of(path, '/etc/hostname')}> block[0] 900000") }, /inode \d+: it refers to block 900000/],
      'an extent tree that is none' => [:csum, ->(path) { poke(path, inode_at(path, '/etc/hostname') + 0x28, "\1\2") }, /its extent tree is broken/],
      'attributes of a file in a free block' =>
        [:plain, ->(path) { debugfs(path, "sif <#{inode_of(path, '/etc/hostname')}> file_acl 19001") }, /at block 19001, count as free/],
      'a journal that waits' => [:csum, ->(path) { debugfs(path, 'feature needs_recovery') }, /its journal waits to be replayed/],
      'clusters of several blocks' => [:clusters, ->(path) {}, /clusters of several blocks/],
      'a feature of tomorrow' => [:plain, ->(path) { poke(path, 1024 + 0x60, [0x400_0002].pack('V')) }, /features that are not known here/],
      'a block for protection against two mounts that is free' =>
        [:mmp, ->(path) { give_up_protection(path) }, /block group 0|two mounts/],
      'a state that says: not unmounted' => [:csum, ->(path) { debugfs(path, 'ssv state 0') }, nil],
      'a state that says: errors' => [:csum, ->(path) { debugfs(path, 'ssv state 3') }, nil],
      'a list of orphans' => [:plain, ->(path) { debugfs(path, "ssv last_orphan #{inode_of(path, '/data/empty')}") }, nil],
      'nothing at all' => [:uninit, ->(path) {}, nil]
    }
  end

  # Bytes of the tables: reserved sectors, and sectors of one table.
  def fat_at(path) = peek(path, 14, 2).unpack1('v') * 512
  def fat_bytes(path) = peek(path, 22, 2).unpack1('v').then { |short| short.zero? ? peek(path, 36, 4).unpack1('V') : short } * 512

  def both_fats(path, offset, bytes)
    2.times { |copy| poke(path, fat_at(path) + (copy * fat_bytes(path)) + offset, bytes) }
  end

  # Byte of the record of a file in the directory "data", by its short name.
  def record_at(path, name) = File.binread(path).index(name.ljust(11).b)

  def fat_cases
    {
      'a zeroed sector in the first table' => [:fat16, ->(path) { poke(path, fat_at(path) + 512, "\0" * 512) }, /its table and copy 1 of it differ/],
      'a zeroed sector in the second table' =>
        [:fat32, ->(path) { poke(path, fat_at(path) + fat_bytes(path) + 512, "\0" * 512) }, /its table and copy 1 of it differ/],
      'a zeroed sector in both tables' => [:fat16, ->(path) { both_fats(path, 512, "\0" * 512) }, /leads to cluster \d+, which is free/],
      'a zeroed sector in both tables of a FAT32' => [:fat32, ->(path) { both_fats(path, 512, "\0" * 512) }, /clusters are free by its table/],
      'a first sector of zeros in both tables' => [:fat32, ->(path) { both_fats(path, 0, "\0" * 512) }, /first entry of its table/],
      'a zeroed sector in both tables of a FAT12' => [:fat12, ->(path) { both_fats(path, 512, "\0" * 512) }, /the chain of/],
      'a counter that says otherwise' => [:fat32, ->(path) { poke(path, 512 + 488, [77].pack('V')) }, /free by its table, 77 by its counter/],
      'two files that share a cluster' =>
        [:fat16, lambda { |path|
          poke(path, record_at(path, 'FILE-2') + 26, peek(path, record_at(path, 'FILE-1') + 26, 2))
        }, /shares cluster \d+ with another/],
      'a file that is longer than its chain' =>
        [:fat16, ->(path) { poke(path, record_at(path, 'FILE-3') + 28, [9_000_000].pack('V')) }, /bytes in its chain, and says 9000000/],
      'a file without clusters' => [:fat16, ->(path) { poke(path, record_at(path, 'FILE-4') + 26, "\0\0") }, /has no clusters/],
      'a dirty bit in the table' => [:fat16, ->(path) { both_fats(path, 2, [0x7FFF].pack('v')) }, nil],
      'a dirty bit in the boot sector' => [:fat32, ->(path) { poke(path, 65, "\1") }, nil],
      'nothing at all in a FAT12' => [:fat12, ->(path) {}, nil]
    }
  end

  # First byte of an attribute's clusters, as ntfsinfo tells its first run.
  def ntfs_run(path, record)
    run('ntfsinfo', '-i', record.to_s, '-v', path)[/Runlist:.*?LCN\s+Length.*?\n\s+0x0\s+0x(\h+)/m, 1].hex
  end

  def cluster = 4096
  def mft_at(path) = peek(path, 48, 8).unpack1('Q<') * cluster
  def mirror_at(path) = peek(path, 56, 8).unpack1('Q<') * cluster
  def ntfs_record(path, number) = mft_at(path) + (number * 1024)

  # Contents of a resident or not resident file of the system, as they lie on the volume.
  def log_at(path) = ntfs_run(path, 2) * cluster
  def ntfs_bitmap_at(path) = ntfs_run(path, 6) * cluster

  def ntfs_cases
    restart = 'RSTR'.b + [30, 9, 0, 4096, 4096, 48, 1, 1].pack('vvQ<VVvvv') + ("\0".b * 18)
    area = [7, 1, 0xFFFF, 0, 0].pack('Q<v4').ljust(64, "\0".b)
    {
      'a zeroed sector in the bitmap' => [:ntfs, ->(path) { poke(path, ntfs_bitmap_at(path), "\0" * 512) }, /clusters of MFT record \d+, at cluster \d+, count as free/],
      'one bit less in the bitmap' =>
        [:ntfs, lambda { |path|
          at = ntfs_run(path, 66)
          byte = ntfs_bitmap_at(path) + (at / 8)
          poke(path, byte, (peek(path, byte, 1).ord & ~(1 << (at % 8))).chr)
        }, /clusters of MFT record 66/],
      'a record that was written only in part' => [:ntfs, ->(path) { poke(path, ntfs_record(path, 66) + 510, "\xAA\xAA") }, /MFT record 66 was written only in part/],
      'a record without its mark' => [:ntfs, ->(path) { poke(path, ntfs_record(path, 66), 'BAAD') }, /MFT record 66 is in use and cannot be read/],
      'a record that is a sector of zeros' => [:ntfs, ->(path) { poke(path, ntfs_record(path, 67), "\0" * 1024) }, /MFT record 67 is in use/],
      'a run that leaves the volume' =>
        [:ntfs, lambda { |path|
          record = peek(path, ntfs_record(path, 68), 1024)
          data = record.index("\x80\0\0\0".b)
          poke(path, ntfs_record(path, 68) + data + record.unpack1("@#{data + 32}v"), [0x41, 1, 0x00FF_FFFF].pack('CCV'))
        }, /attribute 0x80 has a run of 1 clusters/],
      'a mirror that says otherwise' => [:ntfs, ->(path) { flip(path, mirror_at(path) + 3072 + 0x100) }, /record 3 and its copy in \$MFTMirr differ/],
      'a mirror of zeros' => [:ntfs, ->(path) { poke(path, mirror_at(path), "\0" * 1024) }, /MFT record 0 does not begin with FILE/],
      'a copy of the boot sector that says otherwise' =>
        [:ntfs, ->(path) { poke(path, File.size(path) - 512 + 48, "\x99") }, /copy of its boot sector says otherwise/],
      'a journal that waits' =>
        [:ntfs, ->(path) { poke(path, log_at(path), restart + area) }, /its journal waits/],
      'a system that is hibernated' =>
        [:ntfs, lambda { |path|
          File.binwrite(file('asleep'), 'hibr'.ljust(8192, "\0"))
          run('ntfscp', '-q', path, file('asleep'), 'hiberfil.sys')
        }, /hibernated/],
      'a system that has woken' =>
        [:ntfs, lambda { |path|
          File.binwrite(file('awake'), "\0" * 8192)
          run('ntfscp', '-q', path, file('awake'), 'hiberfil.sys')
        }, nil],
      'a dirty flag' =>
        [:ntfs, lambda { |path|
          at = ntfs_record(path, 3)
          bytes = peek(path, at, 1024)
          flag = bytes.index("\x70\0\0\0".b) + 24 + 10
          [at, mirror_at(path) + 3072].each { |record| poke(path, record + flag, "\1\0") }
        }, nil]
    }
  end
end
