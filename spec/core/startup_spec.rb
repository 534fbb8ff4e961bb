# frozen_string_literal: true

RSpec.describe Evrel::Startup do
  let(:disk) { starting_disk }

  def chain(**options) = open_disk(disk) { |opened| described_class.chain(opened, **options) }
  def states(**options) = chain(**options).to_h { |step| [step.id, step.state] }

  it 'walks the whole chain of a good disk, with evidence for each step' do
    expect(states).to eq('firmware' => :ok, 'table' => :ok, 'startup-part' => :ok, 'loader' => :ok, 'entry' => :ok,
                         'kernel' => :ok, 'root' => :ok, 'mounts' => :ok)
    expect(chain.map(&:title)).to include('Runs EFI/BOOT/BOOTX64.EFI', 'The loader picks “Quay”')
    expect(chain.drop(1)).to all(have_attributes(evidence: be_a(String)))
  end

  # What is spoiled → the step that says so, and its words.
  {
    'the loader is missing' => [->(v) { run('mdel', '-i', v, '::EFI/BOOT/BOOTX64.EFI') }, 'loader', :no, /BOOTX64\.EFI is missing/],
    'the loader is no program' => [->(v) { replace(v, 'EFI/BOOT/BOOTX64.EFI', 'x' * 9000) }, 'loader', :no, /no program/],
    'there are no entries' => [->(v) { run('mdel', '-i', v, '::loader/entries/office.conf') }, 'entry', :no, /no entry/],
    'there is another loader' => [->(v) { run('mdeltree', '-i', v, '::loader') }, 'entry', :ask, /another kind/],
    'the kernel is missing' => [->(v) { run('mdel', '-i', v, '::vmlinuz') }, 'kernel', :no, %r{/vmlinuz is missing}],
    'the root is on another disk' => [->(v) { replace(v, 'loader/entries/office.conf', "linux /vmlinuz\noptions root=UUID=0000\n") },
                                      'root', :no, /does not find its root/]
  }.each do |name, (spoil, step, state, words)|
    it "says where it breaks when #{name}" do
      change_startup(disk) { |volume| instance_exec(volume, &spoil) }
      last = chain.last
      expect(last).to have_attributes(id: step, state:, title: words)
    end
  end

  def replace(volume, name, content)
    File.write(file('new'), content)
    run('mcopy', '-o', '-i', volume, file('new'), "::#{name}")
  end

  ['root=UUID=55555555-5555-4555-8555-555555555555', 'root=LABEL=System', 'root=PARTLABEL=System', 'root=/dev/nvme0n1p2',
   'root=/dev/sda2'].each do |root|
    it "finds the root by #{root}" do
      change_startup(disk) { |volume| replace(volume, 'loader/entries/office.conf', "linux /vmlinuz\noptions #{root}\n") }
      expect(states['root']).to eq(:ok)
    end
  end

  it 'notices a twin among the other disks' do
    expect(states(others: [StartingDisks::IDS[:system].upcase])['root']).to eq(:ask)
  end

  it 'notices what is mounted from elsewhere' do
    run('debugfs', '-w', '-f', '-', "#{disk}?offset=#{513 * Disks::MIB}", input: <<~COMMANDS)
      rm /etc/fstab
      write #{file('fstab').tap { |path| File.write(path, "UUID=gone /data ext4 defaults 0 0\n") }} /etc/fstab
    COMMANDS
    expect(chain.last).to have_attributes(id: 'mounts', state: :ask, detail: /UUID=gone/)
  end

  it 'notices a missing init' do
    run('debugfs', '-w', '-f', '-', "#{disk}?offset=#{513 * Disks::MIB}", input: "rm /sbin/init\nrm /bin/init\nrm /bin/sh\n")
    expect(chain.last).to have_attributes(id: 'init', state: :no)
  end

  it 'reads the table from its backup, and says so' do
    flip(disk, 512 + 60)
    expect(states['table']).to eq(:ask)
    expect(states['mounts']).to eq(:ok)
  end

  it 'stops at a disk without a table or a start-up part' do
    empty = sparse('empty', Disks::MIB)
    expect(open_disk(empty) { |opened| described_class.chain(opened).last }).to have_attributes(id: 'table', state: :no)
    run('sgdisk', '-t', '1:8300', disk)
    expect(chain.last).to have_attributes(id: 'startup-part', state: :no)
  end

  it 'refuses an unsigned loader where secure boot is on' do
    expect(chain(firmware: { 'kind' => 'uefi', 'secure_boot' => true, 'loader' => nil }).last).to have_attributes(id: 'loader', state: :no)
  end

  it 'uses the loader that the firmware names' do
    change_startup(disk) { |volume| run('mmove', '-i', volume, '::EFI/BOOT/BOOTX64.EFI', '::EFI/quay.efi') }
    expect(states['loader']).to eq(:no)
    expect(states(firmware: { 'kind' => 'uefi', 'secure_boot' => false, 'loader' => '\EFI\quay.efi' })['loader']).to eq(:ok)
  end

  it 'says that the chain of a BIOS computer is not read' do
    expect(chain(firmware: { 'kind' => 'bios' })).to match([have_attributes(state: :ask)])
  end

  describe Evrel::Startup::Trial do
    it 'starts a disk, takes a picture, and changes nothing' do
      before = [held(disk), File.mtime(disk)]
      result = described_class.new(disk, format: 'raw').run(picture: file('screen.png'))
      expect(result).to have_attributes(outcome: :reached, seconds: be > 1, lines: include(/TKT-09 login:/), picture: file('screen.png'))
      expect(File.binread(file('screen.png'), 8)).to eq("\x89PNG\r\n\x1A\n".b)
      expect([held(disk), File.mtime(disk)]).to eq(before)
    end

    it 'ends at its time limit, and leaves no process behind' do
      result = described_class.new(disk, format: 'raw', expect: 'never this', limit: 1.5).run
      expect(result).to have_attributes(outcome: :time_limit, message: /never this/)
      expect(`pgrep -f #{disk}`).to be_empty
    end

    it 'ends when it is asked to' do
      expect(described_class.new(disk, format: 'raw').run { :stop }).to have_attributes(outcome: :stopped)
    end

    it 'says so where the machine has no emulator' do
      path = ENV.fetch('PATH')
      trial = described_class.new(disk, format: 'raw')
      ENV['PATH'] = @folder
      expect(trial.run).to have_attributes(outcome: :unavailable, message: /lacks qemu-system-x86_64/)
    ensure
      ENV['PATH'] = path
    end

    it 'says why an image cannot be opened' do
      File.write(file('no.qcow2'), 'no image at all')
      expect { described_class.new(file('no.qcow2'), format: 'qcow2').run }.to raise_error(Evrel::Unreadable, /cannot open/)
    end
  end
end
