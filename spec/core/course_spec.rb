# frozen_string_literal: true

# How a start goes on after GRUB waited for a key, as it is read from a screen looked at every two seconds.
RSpec.describe Evrel::Startup::Course do
  subject(:course) { described_class.new }

  let(:grub) { "Booting from Hard Disk...\nerror: can't find command `echo'.\n\nPress any key to continue..." }

  it 'calls it dead when nothing has moved since, and no sooner' do
    expect([course.ending([grub], 8.0), course.held?([grub])]).to eq([nil, true])
    expect(course.ending([grub], 100.0, still: 29.0)).to be_nil
    expect(course.ending([grub], 131.0, still: 31.0)).to eq(:dead)
  end

  it 'sees a system that went on, though the first lines of its kernel had gone by between two looks' do
    ["#{grub}\n[    8.467712] EXT4-fs (vda1): re-mounted. Quota mode: none.", "#{grub}\n\nTerminal TKT-11\n\nTKT-11 login:"].each do |text|
      expect([course.held?([text]), course.ending(['', text], 62.0, still: 40.0)]).to eq([false, nil])
    end
  end

  it 'calls it dead when GRUB comes back to the same again and again' do
    expect(course.ending([grub * 12], 60.0)).to eq(:dead)
  end
end
