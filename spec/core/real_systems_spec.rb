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

  RealSystems::SYSTEMS.each_key do |name|
    RealSystems::Breakages.all(name).each do |breakage|
      it "is told, and mended: #{name}, where #{breakage.what}" do
        everything!
        path = copy(name)
        spoiler = RealSystems::Spoiler.new(name, path)
        breakage.spoil.call(spoiler)
        expect(starts?(name, path)).to be(breakage.harmless?), "it starts: #{@said}"
        next expect(chain(path).map(&:state)).not_to include(:no) if breakage.harmless?
        # A file that Evrel cannot read is asked about; it is never said to be fine.
        next expect(worst(path)).to have_attributes(state: :ask, mend: nil) unless breakage.told?(spoiler)

        mended(name, path, breakage)
        expect(chain(path).map(&:state)).not_to include(:no)
        expect(starts?(name, path)).to be(true), "it does not start: #{@said}"
      end
    end
  end

  def mended(name, path, breakage)
    step = worst(path)
    expect(breakage.told).to include(step.id)
    expect(breakage.mend).to include(step.mend)
    open_disk(path, writable: true) do |disk|
      open_disk(RealSystems[name]) do |image|
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

  def journal_waits?(path)
    RealSystems::Spoiler.new(:bios_ext4, path).part(1) { |part| run('dumpe2fs', '-h', part) }.include?('needs_recovery')
  end

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
