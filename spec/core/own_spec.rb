# frozen_string_literal: true

RSpec.describe Evrel::Own, :in_memory do
  let(:mib) { Disks::MIB }
  let(:values) { { 'name' => 'KSK-07', 'address' => '10.1.4.7', 'zone' => 'North' } }

  # A system with a name, an identity and keys; and a volume of FAT beside it.
  let(:path) do
    made = partitioned('disk', 120 * mib, "label: gpt\nstart=2048, size=60M, type=L\nstart=126976, size=40M, type=L\n")
    root = file('root')
    { 'etc/hostname' => "KSK-01\n", 'etc/hosts' => "127.0.0.1 localhost\n127.0.1.1 KSK-01.quay KSK-01\n10.1.4.9 KSK-011 myKSK-01\n",
      'etc/machine-id' => "#{'a1' * 16}\n", 'etc/ssh/ssh_host_ed25519_key' => 'secret', 'etc/ssh/ssh_host_ed25519_key.pub' => 'public',
      'etc/ssh/sshd_config' => "Port 22\n",
      'etc/net.conf' => "address={address}\nzone={zone}\nrest=${HOME} {other}\n" }.each do |name, text|
      FileUtils.mkdir_p(File.dirname("#{root}/#{name}"))
      File.write("#{root}/#{name}", text)
    end
    File.chmod(0o600, "#{root}/etc/ssh/ssh_host_ed25519_key")
    run('mke2fs', '-q', '-F', '-t', 'ext4', '-d', root, '-E', "offset=#{mib}", made, '60M')
    run('mkfs.vfat', '--offset', '126976', '-n', 'DATA', made, '40960')
    File.write(file('setup'), "computer={name}\r\n")
    run('mcopy', '-i', "#{made}@@#{126_976 * 512}", file('setup'), '::SETUP.INI')
    made
  end

  def name(values = self.values, **how)
    draft = open_disk(path) { |disk| described_class.draft(disk, values, **how) }
    open_disk(path, writable: true) { |disk| Evrel::Startup::Mend::Execution.apply(disk, draft, file('record')) }
    draft
  end

  def debugfs(command) = run('debugfs', '-R', command, "#{path}?offset=#{mib}")

  it 'gives a system its own name, and empties what it makes anew at its first start' do
    draft = name
    expect(draft).to have_attributes(before: 'KSK-01', after: 'KSK-07', title: 'Name it KSK-07')
    expect(debugfs('cat /etc/hostname')).to match(/^KSK-07$/)
    expect(debugfs('cat /etc/hosts')).to include('127.0.1.1 KSK-07.quay KSK-07', '10.1.4.9 KSK-011 myKSK-01')
    %w[machine-id ssh/ssh_host_ed25519_key ssh/ssh_host_ed25519_key.pub].each do |one|
      expect(debugfs("stat /etc/#{one}")).to match(/Size: 0$/)
    end
    expect(debugfs('stat /etc/ssh/ssh_host_ed25519_key')).to match(/Mode:\s+0600/)
    expect(debugfs('cat /etc/ssh/sshd_config')).to include('Port 22')
    expect(run('e2fsck', '-f', '-n', "#{path}?offset=#{mib}")).not_to match(/error|corrupt/i)
    open_disk(path) { |disk| expect(Evrel::Image::Systems.hosts(Evrel::Image::UsedMap.new(disk))).to eq(['KSK-07']) }
  end

  it 'fills templates in any volume that can be written to, and leaves what is no column' do
    name(templates: ['/etc/net.conf', '/SETUP.INI'])
    expect(debugfs('cat /etc/net.conf')).to include("address=10.1.4.7\nzone=North\nrest=${HOME} {other}")
    run('mcopy', '-n', '-i', "#{path}@@#{126_976 * 512}", '::SETUP.INI', file('read'))
    expect(File.binread(file('read'))).to eq("computer=KSK-07\r\n")
  end

  it 'fills an answer file in an NTFS volume, where the technician names it' do
    volume = sparse('volume', 20 * mib)
    run('mkntfs', '-q', '-F', '-Q', '-L', 'Office', '-p', '2048', volume)
    FileUtils.mkdir_p(file('mounted'))
    run('ntfs-3g', volume, file('mounted'))
    FileUtils.mkdir_p("#{file('mounted')}/Setup/First")
    File.write("#{file('mounted')}/Setup/First/answers.xml", "<answers><name>{name}</name><zone>{zone}</zone></answers>\r\n")
    run('umount', file('mounted'))
    disk = partitioned('office', 24 * mib, "label: gpt\nstart=2048, size=20M, type=EBD0A0A2-B9E5-4433-87C0-68B6B72699C7\n")
    copy_in(volume, disk, mib)
    before = OpenSSL::Digest::SHA256.file(disk).hexdigest
    draft = open_disk(disk) { |opened| described_class.draft(opened, values, templates: ['/Setup/First/answers.xml']) }
    open_disk(disk, writable: true) { |opened| Evrel::Startup::Mend::Execution.apply(opened, draft, file('record')) }
    run('dd', "if=#{disk}", "of=#{file('after')}", 'bs=1M', 'skip=1', 'count=20', 'status=none')
    expect(run('ntfscat', '-f', file('after'), '/Setup/First/answers.xml'))
      .to eq("<answers><name>KSK-07</name><zone>North</zone></answers>\r\n")
    expect(content?('ntfsresize', '-i', '-f', file('after'))).to be(true)
    open_disk(disk, writable: true) { |opened| Evrel::Startup::Mend::Execution.undo(opened, file('record')) }
    expect(OpenSSL::Digest::SHA256.file(disk).hexdigest).to eq(before)
  ensure
    system('umount', file('mounted'), %i[out err] => File::NULL)
  end

  it 'is taken back whole' do
    before = OpenSSL::Digest::SHA256.file(path).hexdigest
    name(templates: ['/etc/net.conf'])
    open_disk(path, writable: true) { |disk| Evrel::Startup::Mend::Execution.undo(disk, file('record')) }
    expect(OpenSSL::Digest::SHA256.file(path).hexdigest).to eq(before)
  end

  it 'refuses what cannot be a name or a value, and templates that are not there' do
    refused = lambda do |message, given, **how|
      expect { open_disk(path) { |disk| described_class.draft(disk, values.merge(given), **how) } }.to raise_error(Evrel::Error, message)
    end
    ['', 'a b', '-x', "x\ny", 'é', 'x' * 64].each { |wrong| refused.call(/cannot be the name/, { 'name' => wrong }) }
    refused.call(/is no value/, { 'zone' => "North\nroot::0:0" })
    refused.call(/no part has the file/, {}, templates: ['/etc/nothing'])
    refused.call(/no path from the root/, {}, templates: ['etc/net.conf'])
    refused.call(/no path from the root/, {}, templates: ["/etc/net.conf\nquit"])
  end

  describe Evrel::Own::Names do
    def table(text) = described_class.parse(text)

    it 'is read by target, label, number and name' do
      read = table("Target,Name,address\ncard-1.raw,KSK-02,10.1.4.2\n7A2C,KSK-03,10.1.4.3\n3,KSK-04,\n,,\n")
      expect(read.columns).to eq(%w[target name address])
      expect(read.of('card-1.raw', 1)).to eq('name' => 'KSK-02', 'address' => '10.1.4.2')
      expect([read.of('7a2c')['name'], read.of('x.raw', 3)['name'], read.of('x.raw', 9)]).to eq(['KSK-03', 'KSK-04', nil])
      expect(read.named('ksk-03')['address']).to eq('10.1.4.3')
    end

    it 'refuses what makes no sense' do
      { "target\nx\n" => /no column “name”/, "name\na\nA\n" => /stands twice/, "target,name\nx,a\nx,b\n" => /stands twice/,
        "name,a-b\nx,y\n" => /no name of a column/, "name\n\"x\n" => /no CSV/ }.each do |text, message|
        expect { table(text) }.to raise_error(Evrel::Refused, message)
      end
    end
  end

  it 'names each of a row from a terminal, and tells whoever has no line before anything is written' do
    image = captured(path)
    targets = Array.new(2) { |number| sparse("card-#{number + 1}.raw", File.size(path)) }
    File.write(file('names.csv'), "target,name,address\ncard-1.raw,KSK-02,10.1.4.2\n2,KSK-03,10.1.4.3\n")
    out = StringIO.new
    cli = -> { Evrel::CLI.new(out:, err: StringIO.new) }
    given = ['run', image, *targets, '--table', file('names.csv'), '--template', '/etc/net.conf']
    expect(cli.call.run(given)).to eq(0)
    expect(JSON.parse(out.string)['targets'].map { |one| one.values_at('name', 'written') }).to eq([['KSK-02', true], ['KSK-03', true]])
    hosts = targets.map { |one| open_disk(one) { |disk| Evrel::Image::Systems.hosts(Evrel::Image::UsedMap.new(disk)) } }
    expect(hosts).to eq([['KSK-02'], ['KSK-03']])
    third = sparse('card-9.raw', File.size(path))
    expect(cli.call.run(['run', image, *targets, third, '--table', file('names.csv')])).to eq(1)
    expect(File.stat(third).blocks).to eq(0)
  end
end
