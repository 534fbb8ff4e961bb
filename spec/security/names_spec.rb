# frozen_string_literal: true

# Names on disks that somebody made to be read here.
RSpec.describe 'Hostile names' do
  # A FAT volume on which a directory entry is called what no system would call one.
  def fat_with(name)
    volume = fat('names', 40 * Disks::MIB, 16)
    run('mmd', '-i', volume, '::A LONG NAME HERE')
    run('mcopy', '-i', volume, file('secret').tap { |path| File.write(path, 'x') }, '::A LONG NAME HERE/inside.txt')
    bytes = File.binread(volume)
    units = name.encode('UTF-16LE').b
    wide = units.ljust(32, "\0".b)
    long = 'A LONG NAME HERE'.encode('UTF-16LE').b
    # Two records of 13 characters each: the second part first.
    first = bytes.index(long.byteslice(0, 10)) - 1
    [[1, 0, 10], [14, 10, 12], [28, 22, 4]].each { |at, from, length| bytes[first + at, length] = wide.byteslice(from, length) }
    rest = first - 32
    [[1, 10], [14, 12], [28, 4]].each { |at, length| bytes[rest + at, length] = "\0".b * length }
    File.binwrite(volume, bytes)
    volume
  end

  ['..', '.', '../up', "a\0b"].each do |name|
    it "are names and no ways, called #{name.inspect}" do
      open_disk(fat_with(name)) do |disk|
        volume = Evrel::Volume.recognise(disk)
        found = volume.each_entry('/').to_a
        expect(found.map(&:name)).to all(satisfy { |one| !['', '.', '..'].include?(one) && !one.match?(%r{[/\0]}) })
        expect(found.map { |entry| File.expand_path("/below#{entry.path}") }).to all(start_with('/below/'))
        expect(found.map(&:name)).to include('inside.txt')
      end
    end
  end

  it 'are names and no ways in every kind of volume' do
    ['', '.', '..', '/', '../..', "\0", "..\0"].each do |name|
      safe = Evrel::Volume::Name.safe(name)
      expect([safe, safe.delete('.')]).to all(match(%r{\A[^/\0]+\z}))
    end
    expect(Evrel::Volume::Name.safe('..gitignore…')).to eq('..gitignore…')
  end
end

RSpec.describe Evrel::Linux::Beneath do
  let(:folder) { file('below').tap { |path| FileUtils.mkdir_p(path) } }

  it 'never leaves its folder, neither by a path nor by a link' do
    File.symlink(file('.'), File.join(folder, 'out'))
    File.symlink(file('target'), File.join(folder, 'link'))
    ['../x', 'a/../../x', '/', '', '..', "a\0b", 'out/x', 'link'].each do |path|
      expect { described_class.write(folder, path, 'evil') }.to raise_error(Evrel::Refused), path.inspect
    end
    described_class.write(folder, '/lib/modules/./x.ko', 'good')
    expect(File.binread(File.join(folder, 'lib/modules/x.ko'))).to eq('good')
    expect(Dir.children(file('.'))).to contain_exactly('below')
  end
end
