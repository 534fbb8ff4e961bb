# frozen_string_literal: true

require_relative '../../stand_ins/smart'

RSpec.describe Evrel::Health do
  def ata(**numbers) = StandIns::Smart.ata(hours: 100, temperature: 30, **numbers)
  def state(document) = described_class.of(document).state

  it 'reads the numbers of an ATA drive' do
    expect(described_class.of(ata(reallocated: 3, pending: 0, wear: 12, errors: 0)))
      .to have_attributes(state: 'good', reallocated: 3, pending: 0, wear: 12, hours: 100, temperature: 30,
                          reason: '3 reallocated sectors, wear at 12 %, 100 h, 30 °C')
  end

  it 'reads the numbers of an NVMe drive' do
    nvme = StandIns::Smart.nvme(hours: 5, temperature: 44, wear: 81)
    expect(described_class.of(nvme)).to have_attributes(state: 'worn', wear: 81, hours: 5, reason: /\Awear at 81 %/)
  end

  it 'calls worn what has a reason for it, and nothing below the limit' do
    { { pending: 1 } => 'worn', { reallocated: 10 } => 'worn', { reallocated: 9 } => 'good', { wear: 80 } => 'worn', { wear: 79 } => 'good',
      { errors: 1 } => 'worn', { pending: 1999 } => 'worn', { pending: 2000 } => 'failing', { passed: false } => 'failing' }
      .each { |numbers, expected| expect([numbers, state(ata(**numbers))]).to eq([numbers, expected]) }
    expect(state(StandIns::Smart.nvme(hours: 1, temperature: 30, wear: 0, warning: 1))).to eq('failing')
    expect(state(StandIns::Smart.nvme(hours: 1, temperature: 30, wear: 0, warning: 2))).to eq('good') # only warm
    expect(state(ata.tap { |one| one['ata_smart_attributes']['table'][0]['when_failed'] = 'now' })).to eq('failing')
  end

  it 'says that it does not know, whatever it is given' do
    [nil, 'x', [], {}, { 'temperature' => 5 }, { 'ata_smart_attributes' => { 'table' => [1] } }, { 'ata_smart_attributes' => [] },
     { 'smart_status' => 'fine' }, { 'temperature' => { 'current' => -3 } }].each { |odd| expect(state(odd)).to eq('unknown') }
  end
end
