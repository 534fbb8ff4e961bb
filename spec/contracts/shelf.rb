# frozen_string_literal: true

# What every kind of shelf promises to those who look for images and read them.
# The including group defines `shelf`, over the folder `stocked` and nothing else.
RSpec.shared_examples 'a shelf' do
  let(:stocked) do
    file('stocked').tap do |folder|
      FileUtils.mkdir_p(File.join(folder, 'deep/er'))
      File.write(File.join(folder, 'tide table.txt'), "low water\n")
      File.write(File.join(folder, 'deep/empty'), '')
      File.binwrite(File.join(folder, 'deep/er/été #1'), Random.new(1).bytes(200_000))
    end
  end
  let(:noise) { Random.new(1).bytes(200_000) }

  it 'yields each file in any depth, with its size and a stamp' do
    found = shelf.each_file.to_a
    expect(found.to_h { |entry| [entry.path, entry.size] })
      .to eq('tide table.txt' => 10, 'deep/empty' => 0, 'deep/er/été #1' => 200_000)
    expect(found).to all(have_attributes(stamp: be_a(String), problem: be_nil, modified_at: be_a(Time)))
  end

  it 'knows one file by its path, and that another is not there' do
    expect(shelf.entry('deep/er/été #1')).to have_attributes(path: 'deep/er/été #1', size: 200_000, name: 'été #1', folder: 'deep/er')
    expect(shelf.entry('deep/er/none')).to be_nil
    expect(shelf.siblings('deep/er/none').map(&:path)).to eq(['deep/er/été #1'])
    expect(%w[deep deep/er deep/none].map { |path| shelf.folder?(path) }).to eq([true, true, false])
  end

  it 'opens a file as a disk of single bytes that nobody writes to' do
    disk = shelf.open('deep/er/été #1')
    expect(disk).to have_attributes(size: 200_000, logical_sector: 1, writable?: false)
    expect([disk.read(0, 200_000), disk.read(70_001, 3)]).to eq([noise, noise.byteslice(70_001, 3)])
    disk.close
  end

  it 'reads a small file, and no more of it than is asked for' do
    expect([shelf.read('tide table.txt', 100), shelf.read('tide table.txt', 3)]).to eq(["low water\n", 'low'])
  end

  it 'says of a file that is not there that it is not, by its path' do
    expect { shelf.open('deep/none') }.to raise_error(Evrel::Unreadable, %r{deep/none is not there})
    expect { shelf.read('deep/none', 10) }.to raise_error(Evrel::Unreadable, %r{deep/none is not there})
  end

  it 'is not left by a path' do
    File.write(file('outside'), 'not on the shelf')
    ['../outside', 'deep/../../outside'].each do |path|
      expect { shelf.open(path) }.to raise_error(Evrel::Refused, /leads out of the shelf/)
      expect { shelf.read(path, 10) }.to raise_error(Evrel::Refused)
      expect { shelf.entry(path) }.to raise_error(Evrel::Refused)
    end
  end

  it 'changes the stamp of a file that has changed' do
    before = shelf.entry('tide table.txt').stamp
    File.write(File.join(stocked, 'tide table.txt'), "high water\n")
    expect(again.entry('tide table.txt').stamp).not_to eq(before)
  end

  it 'has a path on this machine for its files, or none; and room that is known, or not' do
    expect(shelf.local('tide table.txt')).to be_nil.or(satisfy { |path| File.read(path) == "low water\n" })
    expect(shelf.room).to be_nil.or(match([be_positive, be_positive]))
  end
end
