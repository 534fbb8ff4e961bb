# frozen_string_literal: true

require_relative '../../stand_ins/bench'

RSpec.describe StandIns::Bench do
  let(:bench) { described_class.new(file('bench'), name: 'bench-7') }

  before do
    %w[ONE-1111 TWO-2222].each_with_index do |serial, index|
      bench.make({ 'serial' => serial, 'maker' => 'Cobb', 'model' => 'Skerry', 'capacity' => 64 * Disks::MIB, 'bus' => 'SATA',
                   'logical_sector' => 512, 'physical_sector' => 4096 })
      bench.plug(serial, (index + 1).to_s)
    end
  end

  it_behaves_like 'a bench'

  it 'knows its drives at other ports again, and what was moved' do
    revision = bench.revision
    key = bench.drives.first.key
    bench.swap('1', '2')
    expect(bench.drives.map(&:key).last).to eq(key)
    expect(bench.revision).not_to eq(revision)
    expect(bench.moves(since: 2).map { |move| [move.what, move.port, move.name] })
      .to eq([[:pulled, '1', 'ONE-1111'], [:pulled, '2', 'TWO-2222'], [:plugged, '1', 'TWO-2222'], [:plugged, '2', 'ONE-1111']])
  end

  it 'refuses what hands cannot do' do
    { -> { bench.plug('ONE-1111', '2') } => /taken/, -> { bench.plug('NONE', '3') } => /no drive/, lambda {
      bench.pull('4')
    } => /nothing is in/,
      -> { bench.plug('ONE-1111', '100') } => /no port/, lambda {
                                                           bench.handle_drive('ONE-1111', { 'smart' => 1 })
                                                         } => /nothing that can be changed/,
      -> { bench.handle_computer('TKT-99', { 'on' => true }) } => /no computer/ }.each do |hand, words|
      expect(&hand).to raise_error(Evrel::Error, words)
    end
  end
end
