# frozen_string_literal: true

require_relative '../support/real_systems'

# Systems that Debian's own tools have installed: what is said of them, and what
# becomes of them, is held against a plain start of the disk. The chain of the
# first is read in every run; everything else is asked with EVREL_EFFORT=all.
RSpec.describe 'Real systems' do
  before { skip RealSystems.missing if RealSystems.missing }

  def everything! = Effort.all? || skip('asked with EVREL_EFFORT=all')

  def chain(path) = open_disk(path) { |disk| Evrel::Startup.chain(disk) }
  def states(path) = chain(path).to_h { |step| [step.id, step.state] }
  def worst(path) = chain(path).then { |steps| steps.find { |step| step.state == :no } || steps.find { |step| step.state == :ask } }

  # @return [String] a copy that may be spoilt
  def copy(name)
    run('cp', '--sparse=always', RealSystems.judged(name), file(name.to_s))
    file(name.to_s)
  end

  def starts?(name, path)
    RealSystems::Guest.judge(path, **RealSystems::SYSTEMS.fetch(name))
    true
  rescue RuntimeError => e
    @said = e.message
    false
  end

  it 'is followed to its end by the chain, from GRUB as it was installed to the programs of the system' do
    path = RealSystems[:bios_ext4]
    steps = %w[firmware table boot-code core configuration entry kernel ramdisk root init modules mounts clean room identity]
    expect(states(path)).to eq(steps.to_h { |id| [id, :ok] })
    expect(chain(path).first).to have_attributes(title: 'The disk is made to start by BIOS', detail: /the first sector holds GRUB/)
    expect(chain(path).find { |step| step.id == 'mounts' }.detail).to eq('2 entries in /etc/fstab are on this disk, 1 are mounted by hand')
  end

  # A part of a disk as a file of its own.
  def in_part(path, number, &block)
    part = open_disk(path) { |disk| Evrel::Table.read(disk).partitions.find { |one| one.number == number } }
    Dir.mktmpdir do |folder|
      layer = Evrel::Disk::Layer.new(folder, File.expand_path(path), cluster: 65_536)
      layer.as_file(part.start, part.size, &block).tap do
        open_disk(path, writable: true) { |disk| layer.runs.each { |one| disk.write(one.start, layer.read(one)) } }
      end
    end
  end

  def debugfs(path, *commands, part: 1)
    in_part(path, part) { |file| run('debugfs', '-w', '-f', '/dev/stdin', file, input: "#{commands.join("\n")}\n") }
  end

  # A text file of the first part, changed by the block.
  def change(path, name)
    in_part(path, 1) do |part|
      run('debugfs', '-R', "dump #{name} #{file('taken')}", part)
      File.binwrite(file('changed'), yield(File.binread(file('taken'))))
      run('debugfs', '-w', '-f', '/dev/stdin', part, input: "rm #{name}\nwrite #{file('changed')} #{name}\n")
    end
  end

  def listed(path, folder)
    open_disk(path) do |disk|
      Evrel::Volume.recognise(Evrel::Table.read(disk).partitions.first.window(disk)).entries(folder).map(&:name)
    end
  end

  def in_boot(path, name) = "/boot/#{listed(path, '/boot').find { |one| one.start_with?(name) }}"

  def new_identity(path) = in_part(path, 1) { |part| run('tune2fs', '-U', 'random', part) }
  def remove(path, name) = debugfs(path, "rm #{name}")

  def damage_ramdisk(path)
    change(path, in_boot(path, 'initrd')) { |bytes| bytes.tap { |whole| whole[9_000_000, 40_000] = 'x' * 40_000 } }
  end

  libraries = '/usr/lib/x86_64-linux-gnu'
  gone = 'UUID=01234567-89ab-4cde-8f01-23456789abcd /data xfs defaults 0 2'
  # What is done to the first system → the steps that may tell it, and the mend; nothing where it starts all the same.
  breakages = {
    'the code in the first sector is gone' => [->(path) { File.binwrite(path, "\0" * 440, 0) }, %w[boot-code], 'boot-code'],
    'the core is overwritten' => [->(path) { File.binwrite(path, 'x' * 4000, 512) }, %w[core], 'core'],
    'the root has another identity' => [->(path) { new_identity(path) }, %w[prefix entry root mounts], 'references'],
    'the kernel is missing' => [->(path) { remove(path, in_boot(path, 'vmlinuz')) }, %w[kernel], 'file'],
    'the initial ramdisk is missing' => [->(path) { remove(path, in_boot(path, 'initrd')) }, %w[ramdisk], 'file'],
    'the initial ramdisk is damaged' => [->(path) { damage_ramdisk(path) }, %w[ramdisk], 'file'],
    'the configuration of GRUB is missing' => [->(path) { remove(path, '/boot/grub/grub.cfg') }, %w[configuration], 'file'],
    'the init is missing' => [->(path) { remove(path, '/usr/lib/systemd/systemd') }, %w[init], 'file'],
    'the links to the init are missing' =>
      [->(path) { %w[/usr/sbin/init /sbin].each { |name| remove(path, name) } }, %w[init], 'file'],
    'a library of the init is missing' => [->(path) { remove(path, "#{libraries}/libc.so.6") }, %w[init], 'file'],
    'what loads programs is missing' => [->(path) { remove(path, "#{libraries}/ld-linux-x86-64.so.2") }, %w[init], 'file'],
    'a disk that fstab lists is gone' =>
      [->(path) { change(path, '/etc/fstab') { |text| "#{text}#{gone}\n" } }, %w[mounts], 'mount-line'],
    'no partition is marked as one to start from' => [->(path) { File.binwrite(path, "\0", 446) }, nil, nil]
  }

  breakages.each do |what, (spoil, told, mend)|
    it "is told, and mended, where #{what}" do
      everything!
      path = copy(:bios_ext4)
      instance_exec(path, &spoil)
      expect(starts?(:bios_ext4, path)).to be(told.nil?), "it starts: #{@said}"
      next expect(worst(path)).to be_nil unless told

      step = chain(path).find { |one| one.state == :no }
      expect(told).to include(step.id)
      expect(step.mend).to eq(mend)
      mended(path, step)
      expect(chain(path).map(&:state)).not_to include(:no)
      expect(starts?(:bios_ext4, path)).to be(true), "it does not start: #{@said}"
    end
  end

  def mended(path, step)
    open_disk(path, writable: true) do |disk|
      open_disk(RealSystems[:bios_ext4]) do |image|
        draft = Evrel::Startup::Mend.draft(step.mend, disk:, about: step.about.to_h, image:)
        Evrel::Startup::Mend::Execution.apply(disk, draft, file('record'))
      end
    end
  end

  def written(image, path, wish)
    open_disk(path, writable: true) do |to|
      plan = Evrel::Layout::Planner.new(Evrel::Layout::Source.of(image), Evrel::Layout::Target.of(to), wish).plan.valid!
      Evrel::Restore::Engine.new(image:, target: to, plan:, scratch: Evrel::Restore::Scratch.new(file('scratch'))).run
    end
  end

  def journal_waits?(path) = in_part(path, 1) { |part| run('dumpe2fs', '-h', part) }.include?('needs_recovery')

  it 'starts on a larger disk after it lost its current in the middle of work' do
    everything!
    path = copy(:bios_ext4)
    RealSystems::Guest.crash(path, **RealSystems::SYSTEMS.fetch(:bios_ext4))
    expect(journal_waits?(path)).to be(true)
    image = Evrel::Image.open(captured(path))
    target = sparse('larger', 6 * (1024**3))
    expect(written(image, target, proposed(image, target))).to have_attributes(verified?: true, not_grown: {})
    expect(journal_waits?(target)).to be(false)
    expect(starts?(:bios_ext4, target)).to be(true), @said
  end

  # As the application tries it.
  # @return [Evrel::Startup::Trial::Result]
  def tried(name)
    about = RealSystems::SYSTEMS.fetch(name)
    typed = false
    Evrel::Startup::Trial.new(RealSystems[name], format: 'raw', firmware: about[:firmware], limit: 300).run do |look, trial|
      trial.type("#{about[:passphrase]}\n") if look.waits == :passphrase && !typed
      typed ||= look.waits == :passphrase
      nil
    end
  end

  it 'waits for the passphrase of an encrypted system' do
    everything!
    trial = Evrel::Startup::Trial.new(RealSystems[:uefi_luks], format: 'raw', firmware: :uefi, limit: 60)
    expect(trial.run).to have_attributes(outcome: :passphrase, message: /nobody typed it/)
  end

  RealSystems::SYSTEMS.each do |name, about|
    it "is seen to start by a trial start: #{name}" do
      everything!
      started = tried(name)
      expect(started).to have_attributes(outcome: :reached, text: /login:/)
      expect(started.text).not_to include(about[:passphrase]) if about[:passphrase]
    end
  end

  # To the same size, to a larger one and to a smaller one, by the sensible way.
  RealSystems::SYSTEMS.each_key do |name|
    it "starts where it was restored to: #{name}" do
      everything!
      told = states(RealSystems[name]).group_by(&:last).map { |state, steps| "#{state}: #{steps.map(&:first).join(' ')}" }
      puts "      #{name}: #{told.join('; ')}"
      expect(states(RealSystems[name]).values).not_to include(:no)
      image = Evrel::Image.open(captured(RealSystems.judged(name)))
      expect(Evrel::Image::Check.new(image).run).to be_whole
      { 'same' => RealSystems::SIZE, 'larger' => 6 * (1024**3), 'smaller' => 3_700_000_000 / 512 * 512 }.each do |size, bytes|
        target = sparse("#{name}-#{size}", bytes)
        expect(written(image, target, proposed(image, target))).to have_attributes(verified?: true, not_grown: {})
        expect(starts?(name, target)).to be(true), "#{size}: #{@said}"
        FileUtils.rm_f(target)
      rescue Evrel::DoesNotFit => e
        expect([size, e.message]).to match(['smaller', /too small/])
      end
    end
  end

  def proposed(image, path)
    open_disk(path) { |to| Evrel::Layout::Proposal.for(Evrel::Layout::Source.of(image), Evrel::Layout::Target.of(to)).first }
  end
end
