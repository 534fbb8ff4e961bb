# frozen_string_literal: true

RSpec.describe Evrel::Crc do
  # The check values of both in the catalogue that everybody holds theirs against.
  it 'gives the sums of "123456789"' do
    expect(described_class.c32('123456789') ^ described_class::ALL).to eq(0xE306_9283)
    expect(described_class.c16('123456789', 0)).to eq(0xBB3D)
    expect(described_class.c16('123456789')).to eq(0x4B37)
  end

  it 'goes on from another' do
    bytes = Random.new(3).bytes(100_001)
    expect(described_class.c32(bytes.byteslice(999..), described_class.c32(bytes.byteslice(0, 999)))).to eq(described_class.c32(bytes))
    expect(described_class.c16(bytes.byteslice(7..), described_class.c16(bytes.byteslice(0, 7)))).to eq(described_class.c16(bytes))
  end
end
