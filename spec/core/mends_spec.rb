# frozen_string_literal: true

# Mends whose place on the disk is not the one that it has in the image.
RSpec.describe Evrel::Startup::Mend do
  let(:mib) { Disks::MIB }

  def draft(id, path, image, **about)
    open_disk(path) { |disk| open_disk(image) { |whole| described_class.draft(id, disk:, about:, image: whole) } }
  end

  def mend(id, path, image, **about)
    drafted = draft(id, path, image, **about)
    open_disk(path, writable: true) { |disk| described_class::Execution.apply(disk, drafted, file("record-#{id}")) }
  end

  # GRUB in a part of its own on a GPT, as grub-install leaves it there.
  # @param at [Integer] sector where that part begins
  def with_core(name, at)
    type = Evrel::Table::Types::BIOS_BOOT
    path = partitioned(name, 300 * mib, "label: gpt\nstart=#{at}, size=2048, type=#{type}\nstart=40960, size=100M\n")
    run('grub-mkimage', '-O', 'i386-pc', '-o', file('core'), '-p', '(,gpt2)/boot/grub', *InitrdDisks::BIOS)
    core = File.binread(file('core'))
    core[0x1F4, 12] = [at + 1, ((core.bytesize + 511) / 512) - 1, 0x820].pack('Q<vv')
    boot = File.binread('/usr/lib/grub/i386-pc/boot.img', 440)
    boot[0x5C, 8] = [at].pack('Q<')
    File.binwrite(path, core, at * 512)
    File.binwrite(path, boot, 0)
    path
  end

  def core(path)
    open_disk(path) { |disk| Evrel::Startup::GrubCore.new(disk).then { |core| [core.first, core.runs.first.first, core.there?, core.listed?] } }
  end

  def chain(path) = open_disk(path) { |disk| Evrel::Startup.chain(disk) }
  def prefix(path) = open_disk(path) { |disk| Evrel::Startup::GrubCore.new(disk).modules&.prefix }

  it 'writes GRUB’s core into its own part, wherever that lies on the disk' do
    image = with_core('image', 2048)
    path = with_core('disk', 8192)
    File.binwrite(path, 'x' * 20_000, 8192 * 512)
    expect(chain(path).find { |step| step.state == :no }).to have_attributes(id: 'core', mend: 'core')
    mend('core', path, image)
    expect(core(path)).to eq([8192, 8193, true, true])
    expect(prefix(path)).to eq('(,gpt2)/boot/grub')
  end

  it 'writes the code of the first sector so that it finds the core of this disk' do
    path = with_core('disk', 8192)
    File.binwrite(path, "\0" * 440, 0)
    expect(chain(path).find { |step| step.state == :no }).to have_attributes(id: 'boot-code', mend: 'boot-code')
    mend('boot-code', path, with_core('image', 2048))
    expect(core(path)).to eq([8192, 8193, true, true])
  end

  it 'refuses a core for which the disk has no part, or the image none' do
    image = with_core('image', 2048)
    path = partitioned('disk', 300 * mib, "label: gpt\nstart=40960, size=100M\n")
    expect { draft('core', path, image) }.to raise_error(Evrel::Refused, /no partition for the core/)
    expect { draft('core', image, path) }.to raise_error(Evrel::Refused, /image has no core/)
  end

  # A disk with one volume of ext4.
  def with_volume(name, uuid)
    path = partitioned(name, 60 * mib, "label: dos\nstart=2048, size=50M\n")
    run('mke2fs', '-q', '-F', '-t', 'ext4', '-U', uuid, '-E', "offset=#{mib}", path, '50M')
    path
  end

  def uuid(path) = open_disk(path) { |disk| Evrel::Volume.recognise(Evrel::Table.read(disk).partitions.first.window(disk)).uuid }

  it 'gives volumes the identities back that the image has for them, each once' do
    was = '11111111-1111-4111-8111-111111111111'
    is = '22222222-2222-4222-8222-222222222222'
    image = with_volume('image', was)
    path = with_volume('disk', is)
    expect { draft('old-identity', path, image, spec: 'UUID=33333333-3333-4333-8333-333333333333') }
      .to raise_error(Evrel::Refused, /every volume has/)
    mend('old-identity', path, image, spec: "UUID=#{was}")
    expect(uuid(path)).to eq(was)
    expect(run('e2fsck', '-fn', "#{path}?offset=#{mib}")).to include('files')
    expect { draft('old-identity', path, image) }.to raise_error(Evrel::Refused, /every volume has/)
  end

  def offset(mebibytes) = "offset=#{mebibytes * mib}"

  it 'puts a file of /usr back where /usr is a part of its own, and the link that leads there' do
    root = tree({ 'etc/hostname' => "quay\n", 'usr/none' => '' })
    File.symlink('usr/sbin', "#{root}/sbin")
    usr = tree({ 'sbin/init' => 'the first program', 'none' => '' })
    image = partitioned('image', 60 * mib, "label: dos\nstart=2048, size=20M\nstart=51200, size=20M\n")
    { root => 1, usr => 25 }.each { |from, at| run('mke2fs', '-q', '-F', '-t', 'ext4', '-E', offset(at), '-d', from, image, '20M') }
    run('cp', image, file('disk'))
    { 1 => 'rm /sbin', 25 => 'rm /sbin/init' }.each { |at, command| run('debugfs', '-w', '-R', command, "#{file('disk')}?#{offset(at)}") }
    mend('file', file('disk'), image, number: 1, usr: 2, any_of: ['/sbin/init', '/bin/init'])
    read = run('debugfs', '-R', 'cat /sbin/init', "#{file('disk')}?#{offset(25)}")
    expect(read).to end_with('the first program')
    expect(run('debugfs', '-R', 'stat /sbin', "#{file('disk')}?offset=#{mib}")).to include('Fast link dest: "usr/sbin"')
  end
end
