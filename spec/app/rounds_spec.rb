# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe Rounds do
  def rounds
    done = []
    thread = described_class.every(0.01) { yield done << nil }
    eventually { done.size > 3 || !thread.alive? }
    thread.alive?
  ensure
    thread&.kill
  end

  it 'go on after whatever went wrong in one, and say once what nobody had thought of' do
    expect do
      expect(rounds do
        raise 'a fault of ours'
      end).to be(true)
    end.to output(/\A[^\n]*: a fault of ours \(RuntimeError\)(?!.*a fault)/m).to_stderr
    expect { expect(rounds { raise Evrel::Unreadable, 'a drive was pulled' }).to be(true) }.not_to output.to_stderr
  end

  it 'look at a drive that was carried away since it was listed as one that is gone' do
    path = plugged('VN03-1111-4A4A', '6')
    listed = bench.drives.find { |drive| drive.port == '6' }
    FileUtils.rm_rf(File.dirname(path))
    expect { listed.open }.to raise_error(Evrel::Unreadable, /the drive is gone/)
    expect(AttachedDrives.contents(listed).problem).to match(/the drive is gone/)
    expect(bench.switches(listed)).to eq(faults: {})
  end
end
