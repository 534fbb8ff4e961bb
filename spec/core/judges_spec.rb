# frozen_string_literal: true

require 'json'

# `bin/evrel` on each format, held against what the tools of the trade say of
# the same disk: a FAT, an ext4 and an NTFS volume behind an MBR.
RSpec.describe 'bin/evrel beside other judges' do
  starts = { 1 => 1, 2 => 65, 5 => 106 } # MiB
  sizes = { 1 => 64, 2 => 150, 5 => 80 }

  def evrel(*arguments)
    out, _, status = Evrel::Linux::Spawn.capture3(File.expand_path('../../bin/evrel', __dir__), *arguments, binmode: true)
    raise "evrel #{arguments.first} ended with #{status.exitstatus}" unless status.success?

    out
  end

  def disk
    @disk ||= partitioned('disk.raw', 150 * Disks::MIB, <<~SCRIPT).tap { |path| fill(path) }
      label: dos
      start=2048, size=64M, type=c
      size=40M, type=83, bootable
      size=44M, type=5
      start=217088, size=30M, type=7
    SCRIPT
  end

  def fill(path)
    copy_in(fat('fat', 64 * Disks::MIB, 32), path, Disks::MIB)
    run('mke2fs', '-q', '-F', '-t', 'ext4', '-L', 'root', '-E', "offset=#{65 * Disks::MIB}", '-d', tree, path, '40M')
    ntfs = sparse('ntfs', 30 * Disks::MIB)
    run('mkntfs', '-q', '-F', '-Q', '-L', 'Office', ntfs)
    File.binwrite(file('letter'), Random.new(8).bytes(700_000))
    run('ntfscp', '-q', ntfs, file('letter'), 'letter.bin')
    copy_in(ntfs, path, 106 * Disks::MIB)
  end

  # One volume of the disk in a file of its own, for judges that want one.
  define_method(:volume_file) do |number|
    file("part-#{number}").tap do |path|
      run('dd', "if=#{disk}", "of=#{path}", 'bs=1M', "skip=#{starts[number]}", "count=#{sizes[number]}", 'conv=sparse', 'status=none')
    end
  end

  # @return [Hash{Integer=>Integer}] used bytes of each volume, by its own checker
  def judged
    fat = run('fsck.vfat', '-nv', volume_file(1))
    ext = run('dumpe2fs', '-h', volume_file(2))
    ntfs = run('ntfsinfo', '-fm', volume_file(5))
    { 1 => (fat[%r{(\d+)/\d+ clusters}, 1].to_i * fat[/(\d+) bytes per cluster/, 1].to_i) + fat[/Data area starts at byte (\d+)/, 1].to_i,
      2 => (ext[/Block count:\s+(\d+)/, 1].to_i - ext[/Free blocks:\s+(\d+)/, 1].to_i) * ext[/Block size:\s+(\d+)/, 1].to_i,
      5 => (ntfs[/Volume Size in Clusters: (\d+)/, 1].to_i - ntfs[/Free Clusters: (\d+)/, 1].to_i) * ntfs[/Cluster Size: (\d+)/, 1].to_i }
  end

  def theirs
    JSON.parse(run('sfdisk', '--json', disk)).dig('partitiontable', 'partitions').reject { |part| part['type'] == '5' }
        .map { |part| [part['start'], part['size'] * 512] }
  end

  # @return [String] the disk in another shape
  def shaped(format)
    path = file('shaped')
    case format
    when 'raw' then return disk
    when 'pieces' then run('split', '-b', '100M', '-d', '-a', '2', disk, "#{path}.")
    when 'zstd' then run('zstd', '-q', '-1', disk, '-o', path)
    else run('qemu-img', 'convert', '-O', format, *(%w[-o force_size=on] if format == 'vpc'), disk, path)
    end
    format == 'pieces' ? "#{path}.00" : path
  end

  %w[raw pieces zstd qcow2 vpc vhdx vmdk vdi].each do |format|
    it "agree on table, volumes and used bytes, from #{format}" do
      found = JSON.parse(evrel('inspect', shaped(format)))
      parts = found['table']['partitions']
      expect(parts.map { |part| part.values_at('first_lba', 'size_bytes') }).to eq(theirs)
      expect(parts.to_h { |part| [part['number'], part['volume']['used_bytes']] }).to eq(judged)
      expect(parts.map { |part| part['volume'].values_at('kind', 'label') }).to eq([%w[fat32 LABEL32], %w[ext4 root], %w[ntfs Office]])
    end
  end

  it 'agree on the contents of files' do
    run('mcopy', '-i', "#{disk}@@1M", '::deep/er/A long name for a file.bin', file('fat-theirs'))
    run('debugfs', '-R', "dump /data/noise.bin #{file('ext-theirs')}", "#{disk}?offset=#{65 * Disks::MIB}")
    File.binwrite(file('ntfs-theirs'), IO.popen(['ntfscat', '-f', volume_file(5), '/letter.bin'], 'rb', &:read))
    { 'fat-theirs' => [1, '/deep/er/A long name for a file.bin'], 'ext-theirs' => [2, '/data/noise.bin'],
      'ntfs-theirs' => [5, '/letter.bin'] }.each do |name, (part, path)|
      expect(evrel('take', disk, part.to_s, path).b == File.binread(file(name))).to be(true), path
    end
  end

  it 'keep all that the emulator’s tools see of an image' do
    run('qemu-img', 'convert', '-O', 'qcow2', disk, file('image.qcow2'))
    held = JSON.parse(run('qemu-img', 'map', '--output=json', file('image.qcow2'))).select { |one| one['data'] }
    image = Evrel::Image.open(file('image.qcow2'))
    expect(image.disk.extents.sum(&:last)).to eq(held.sum { |one| one['length'] })
  end

  it 'look by pattern, and match by host name' do
    names = JSON.parse(evrel('list', disk, '*.BIN'))['entries'].map { |entry| [entry['part'], entry['path']] }
    expect(names).to contain_exactly([1, '/deep/er/A long name for a file.bin'], [2, '/data/noise.bin'], [5, '/letter.bin'])
    FileUtils.mkdir_p(file('shelf'))
    run('cp', '--sparse=always', disk, file('shelf/nameless'))
    first = JSON.parse(evrel('match', '--computer', 'quay', '--cause', 'infected', '--since', '2040-01-01', file('shelf')))['images'].first
    expect(first).to include('relation' => 'own', 'moment' => 'before', 'why' => 'Last image before the trouble',
                             'marks' => include(include('id' => 'host', 'weight' => 40)))
  end
end
