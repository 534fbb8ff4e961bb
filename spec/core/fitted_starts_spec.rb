# frozen_string_literal: true

require_relative '../../demo/kiosk_disk'

# Disks of other sizes than their image's, and that they start.
RSpec.describe Evrel::Layout, 'on a disk that starts' do
  def mib = 1024**2
  def gb = 10**9

  # @return [Evrel::Layout::Plan]
  def fitted(image, target, wish = nil, sector: 512)
    open_disk(target, writable: true, logical_sector: sector) do |to|
      opened = Evrel::Image.open(image)
      source = described_class::Source.of(opened)
      at = described_class::Target.of(to)
      plan = described_class::Planner.new(source, at, wish || described_class::Proposal.for(source, at).first).plan.valid!
      result = Evrel::Restore::Engine.new(image: opened, target: to, plan:, scratch: Evrel::Restore::Scratch.new(file('scratch'))).run
      expect(result).to be_verified
      plan
    ensure
      opened&.close
    end
  end

  # One of them in every run.
  def expect_log_in(path, always: false, firmware: :uefi, sector: 512)
    return unless always || Effort.all?

    started = Evrel::Startup::Trial.new(path, format: 'raw', firmware:, sector:, expect: 'login:', limit: 300).run
    expect(started).to have_attributes(outcome: :reached)
  end

  let(:image) { captured(starting_disk) }

  it 'grows, with the recovery part at the new end, and starts under a new identity' do
    target = sparse('target', 6 * gb / 512 * 512)
    plan = fitted(image, target, { 'way' => 'grow', 'part' => 2, 'identity' => 'renew' })
    expect(plan.places.last).to have_attributes(change: 'moves')
    expect(described_class::Judges.new(target, sector: 512, scratch: file('judged')).facts.map(&:state).uniq).to eq([:ok])
    expect_log_in(target, always: true)
  end

  it 'shrinks onto a drive two thirds as large' do
    target = sparse('target', 2_000_000_000 / 512 * 512)
    expect(fitted(image, target).places.map(&:change)).to include('shrinks')
    expect_log_in(target)
  end

  it 'starts from sectors of 4096 bytes' do
    target = sparse('target', 6 * gb / 4096 * 4096)
    fitted(image, target, { 'way' => 'grow', 'part' => 2 }, sector: 4096)
    expect(described_class::Judges.new(target, sector: 4096, scratch: file('judged')).facts.map(&:state).uniq).to eq([:ok])
    expect_log_in(target, sector: 4096)
  end

  it 'grows a card with logical partitions from 8 to 16 GB, which starts by BIOS' do
    card = sparse('card.raw', 7_948_206_080)
    Demo::KioskDisk.new(card, host: 'KSK-09', signature: '5e1f3a90', start_files: StartingDisks::FILES).build
    target = sparse('target', 15_931_539_456)
    plan = fitted(captured(card, 'card'), target, { 'way' => 'grow', 'part' => 5 })
    expect(plan.places.map { |place| [place.number, place.change] }).to include([5, 'grows'])
    expect(run('sfdisk', '--verify', target)).to include('No errors detected')
    expect_log_in(target, firmware: :bios)
  end
end
