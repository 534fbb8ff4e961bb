# frozen_string_literal: true

# Files that are more than their stream: what their system has compressed is
# read, all others are named by what they are, and never count as read or saved.
RSpec.describe Evrel::Volume::NtfsReparse do
  # @yieldparam folder [String] where the volume is mounted
  def volume
    path = sparse('volume', 40 * Disks::MIB)
    run('mkntfs', '-q', '-F', '-Q', path)
    FileUtils.mkdir_p(file('mounted'))
    run('ntfs-3g', '-o', 'streams_interface=windows', path, file('mounted'))
    begin
      yield file('mounted')
    ensure
      run('umount', file('mounted'))
    end
    path
  end

  def special(folder, name, size, tag, data)
    path = File.join(folder, name)
    File.open(path, 'w') { |io| io.truncate(size) }
    yield path if block_given?
    run('setfattr', '-n', 'system.ntfs_reparse_data', '-v', SystemCompressed.reparse(tag, data), path)
  end

  # No byte of a call instruction among them: LZX would translate it.
  def contents = @contents ||= "#{(1..9000).map { |hour| "tide at #{hour * 7} o'clock, ferry #{hour % 13}\n" }.join}end"

  def compressed(folder, name, text, number, chunk, method)
    special(folder, name, text.bytesize, SystemCompressed::SYSTEM, [1, 2, 1, number].pack('V4')) do |path|
      File.binwrite("#{path}:WofCompressedData", SystemCompressed.stream(text, chunk, method))
    end
  end

  def others
    @others ||= volume do |folder|
      File.write(File.join(folder, 'plain.txt'), 'plain')
      special(folder, 'doubled.bin', 5000, 0x8000_0013, 'x' * 32)
      special(folder, 'far.docx', 70_000, 0x9000_601A, 'x' * 32)
      special(folder, 'link', 0, 0xA000_000C, [0, 8, 8, 8, 0].pack('v4V') + 'targ'.encode('UTF-16LE').b + 'targ'.encode('UTF-16LE').b)
      special(folder, 'other.dat', 900, 0x8000_0017, [1, 1, 1, 0].pack('V4'))
    end
  end

  def opened(path) = open_disk(path) { |disk| yield Evrel::Volume.recognise(disk) }

  SystemCompressed::METHODS.each do |name, (number, chunk, method)|
    it "is read: a file compressed by #{name}" do
      path = volume do |folder|
        compressed(folder, 'whole.txt', contents, number, chunk, method)
        compressed(folder, 'short.txt', 'a few words', number, chunk, method)
        compressed(folder, 'noise.bin', Random.new(2).bytes(50_000), number, chunk, method)
      end
      opened(path) do |found|
        expect(found.doubts).to be_empty
        expect(found.entries.map { |entry| [entry.name, entry.type, entry.size, entry.note] })
          .to contain_exactly(['whole.txt', :file, contents.bytesize, nil], ['short.txt', :file, 11, nil],
                              ['noise.bin', :file, 50_000, nil])
        read = ''.b
        found.read_file('/whole.txt') { |piece| read << piece }
        expect(read == contents.b).to be(true)
        expect(found.file_head('/short.txt')).to eq('a few words')
        expect(found.file_head('/noise.bin') == Random.new(2).bytes(50_000)).to be(true)
      end
    end
  end

  it 'answers compressed contents that are cut or changed with a typed error, or other bytes, and never falls' do
    stream = SystemCompressed.stream(contents[0, 40_000], 4096, :xpress)
    chunk = SystemCompressed.lzx(contents[0, 32_768])
    random = Random.new(4)
    wrong = (1..300).filter_map do |round|
      bytes = (round.odd? ? stream.byteslice(36, 3000) : chunk).dup
      random.rand(1..5).times { bytes.setbyte(random.rand(bytes.bytesize), random.rand(256)) }
      bytes = bytes.byteslice(0, random.rand(1..bytes.bytesize)) if (round % 3).zero?
      Evrel::Codec::SystemCompression.decompress(round.odd? ? :xpress : :lzx, bytes, round.odd? ? 4096 : 32_768)
      nil
    rescue Evrel::Damaged
      nil
    rescue StandardError => e
      e.message
    end
    expect(wrong).to be_empty
  end

  it 'names the others, in lists and where they are refused' do
    opened(others) do |found|
      notes = found.entries.to_h { |entry| [entry.name, entry.note] }
      expect(notes).to match('plain.txt' => nil, 'doubled.bin' => /deduplicated/, 'far.docx' => /in a cloud/, 'link' => /a link/,
                             'other.dat' => nil)
      expect { found.read_file('/far.docx') { nil } }.to raise_error(Evrel::Unsupported, /far.docx is a placeholder/)
      expect { found.read_file('/other.dat') { nil } }.to raise_error(Evrel::Unsupported, /compressed by provider 1/)
    end
    out, said, status = Evrel::Linux::Spawn.capture3(File.expand_path('../../bin/evrel', __dir__), 'take', others, '1', '/doubled.bin')
    expect([status.exitstatus, said]).to match([2, /doubled.bin is deduplicated/])
    expect(out).to be_empty
    listed = JSON.parse(Evrel::Linux::Spawn.capture2(File.expand_path('../../bin/evrel', __dir__), 'list', others).first)
    expect(listed['entries'].find { |entry| entry['path'] == '/far.docx' }).to include('size' => 70_000, 'note' => /cloud/)
  end

  it 'does not count them as saved, and says that they would be lost' do
    open_disk(others) do |disk|
      saved = Evrel::Archive::Saved.new(disk, { 1 => ['/'] }, file('saved')).run
      expect(saved).to have_attributes(files: 1, bytes: 5)
      expect(saved.missed).to contain_exactly(/doubled.bin: is deduplicated/, /far.docx: is a placeholder/, /other.dat: .*provider 1/)
      lost = Evrel::Safety::Loss.new(disk).count.volumes.first
      expect(lost).to include('files' => 4, 'unsaved' => { 'files' => 2, 'bytes' => 75_000, 'named' => contain_exactly(
        include('path' => '/doubled.bin', 'note' => /deduplicated/), include('path' => '/far.docx')
      ) })
    end
  end

  it 'names files that their owner has encrypted, on ext too' do
    path = ext('volume', 30 * Disks::MIB, '-t', 'ext4')
    run('debugfs', '-w', '-R', 'sif /etc/hostname flags 0x80800', path)
    opened(path) do |found|
      expect(found.entry('/etc/hostname').note).to eq('encrypted by its owner')
      expect { found.file_head('/etc/hostname') }.to raise_error(Evrel::Unsupported, /encrypted by its owner/)
    end
  end
end
