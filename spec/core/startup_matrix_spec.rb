# frozen_string_literal: true

# Disks that are each broken in one way: what the chain says, what mends them,
# and whether the emulator agrees. To ask the emulator takes a minute for each
# disk: it is asked with EVREL_EFFORT=all.
RSpec.describe Evrel::Startup, 'with disks that are broken in one way' do
  def firmware(one) = BrokenDisks::BIOS.include?(one.base) ? :bios : :uefi

  def computer(one)
    attached = one.attached.map { |about| Evrel::Startup::Computer::Attached.new(identities: [], **about) }
    Evrel::Startup::Computer.from({ 'firmware' => firmware(one).to_s, **one.computer }, attached:, port: '3')
  end

  def chain(one, path) = open_disk(path) { |disk| described_class.chain(disk, computer(one)) }
  def worst(steps) = steps.find { |step| step.state == :no } || steps.find { |step| step.state == :ask }

  # What will not start is given up after a while; for what will there is time enough on a busy machine too.
  def starts?(one, path, likely:)
    Evrel::Startup::Trial.new(path, format: 'raw', firmware: firmware(one), limit: likely ? 300 : 90, **one.with).run.started?
  end

  # @return [String] the disk as it was
  def sound(one) = instance_exec(self, &BrokenDisks::BASES.fetch(one.base))

  BrokenDisks::ALL.each do |one|
    it "says so where #{one.id}" do
      path = sound(one)
      image = file('sound.raw')
      run('cp', '--sparse=always', path, image)
      instance_exec(path, &one.spoil)
      step = worst(chain(one, path))
      expect(step).to have_attributes(id: one.step, state: one.state, title: one.says, mend: one.mend)
      expect(step.remedy).to be_a(String) if one.state == :no && one.mend
      mended(one, path, step, image) if one.mend && !%w[boot-entry boot-order identities].include?(one.mend)
      likely = one.mend ? true : one.starts
      expect(starts?(one, path, likely:)).to be(likely) if !one.starts.nil? && Effort.all?
    end
  end

  # Mended, taken back, and mended again.
  def mended(one, path, step, image)
    draft = drafted(path, step, image)
    applied(path, draft)
    after = held(path)
    expect(chain(one, path).map(&:state)).not_to include(:no)
    expect(chain(one, path).find { |other| other.id == one.step && other.mend == one.mend }).to be_nil
    open_disk(path, writable: true) { |disk| Evrel::Startup::Mend::Execution.undo(disk, file('record')) }
    expect(worst(chain(one, path))).to have_attributes(id: one.step, state: one.state)
    FileUtils.rm(file('record'))
    applied(path, draft)
    expect(held(path)).to eq(after)
    judged(path, one)
  end

  # Working it out changes nothing.
  def drafted(path, step, image)
    before = held(path)
    draft = open_disk(path) do |disk|
      open_disk(image) { |sound| Evrel::Startup::Mend.draft(step.mend, disk:, about: step.about.to_h, image: sound) }
    end
    expect(held(path)).to eq(before)
    draft
  end

  def applied(path, draft) = open_disk(path, writable: true) { |disk| Evrel::Startup::Mend::Execution.apply(disk, draft, file('record')) }

  # By the tools of the tables and file systems.
  def judged(path, one)
    return if BrokenDisks::BIOS.include?(one.base)

    expect(run('sgdisk', '-v', path)).to include('No problems found')
    run('e2fsck', '-fn', "#{path}?offset=#{InitrdDisks::ROOT_START}") if %i[uefi bare].include?(one.base)
  end

  it 'agrees that the sound ones start' do
    real_start!
    %i[uefi bios entries].each do |base|
      one = BrokenDisks::Case.new(base:, computer: {}, attached: [], with: {})
      path = sound(one)
      expect(chain(one, path).map(&:state).uniq).to eq([:ok])
      expect(starts?(one, path, likely: true)).to be(true)
    end
  end
end
