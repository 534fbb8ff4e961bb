# frozen_string_literal: true

# What every kind of volume promises to those who keep, place, resize, mend and
# judge it. The including group defines `path`, of a file that holds one.
RSpec.shared_examples 'a volume' do
  let(:opened) { open_disk(path) }
  let(:volume) { Evrel::Volume.recognise(opened) }

  it 'says what it is, and keeps within its place' do
    expect(volume.kind).to be_a(String)
    expect([volume.label, volume.uuid]).to all(be_nil.or(be_a(String)))
    expect(volume.size).to be_between(1, opened.size)
    expect(volume.used_bytes).to be_between(0, opened.size)
    expect([true, false, nil]).to include(volume.clean?)
    expect(volume).to have_attributes(hibernated?: false, doubts: [], block_size: be_positive, least_sector: be_positive)
  end

  it 'tells what is in use in runs that ascend, apart and inside' do
    at = 0
    volume.used_extents do |offset, length|
      expect(offset).to be >= at
      at = offset + length
    end
    expect(at).to be_between(1, opened.size)
  end

  it 'keeps its size with a reason, or has a resizer and a least size' do
    limits = volume.limits
    expect(limits.least).to be <= opened.size
    expect(limits.resizable? ? limits.resizer : limits.reason).to be_truthy
    expect(volume.limits(['of two kinds'])).to have_attributes(resizable?: false, reason: /of two kinds/)
  end

  it 'is, at its least size and grown again, what its own check finds nothing wrong with' do
    skip 'it keeps its size' unless (limits = volume.limits).resizable?

    before = [volume.kind, volume.uuid]
    [(limits.least + 65_535) / 65_536 * 65_536, opened.size].each do |size|
      limits.resizer.resize(path, size, sector: 512, time: Time.at(1_700_000_000))
      expect(File.size(path)).to eq(size)
      now = Evrel::Volume.recognise(open_disk(path))
      expect([now.kind, now.uuid]).to eq(before)
      run(*now.judge.last, path) if now.judge
    end
  end

  it 'says where it lies in bytes of its own, or nowhere' do
    fields = volume.place_fields(5 * (1024**2))
    fields.each do |offset, bytes, what|
      expect(offset + bytes.bytesize).to be <= opened.size
      expect(what).to be_a(String)
      File.binwrite(path, bytes, offset)
    end
    run(*volume.judge.last, path) if volume.judge
    now = Evrel::Volume.recognise(open_disk(path))
    expect(now.place_fields(5 * (1024**2))).to eq(fields)
    expect([now.kind, now.uuid]).to eq([volume.kind, volume.uuid])
  end

  it 'gets another identity by its editor, and a file; or says that nothing here writes into it' do
    fresh = volume.fresh_identity
    editor = begin
      volume.editor(path)
    rescue Evrel::Unsupported => e
      expect(e.message).to include(volume.kind)
      next expect(fresh).to be_nil
    end
    editor.identity = fresh
    editor.put('/put/there.txt', "by the editor\n")
    now = Evrel::Volume.recognise(open_disk(path))
    expect(now.uuid.downcase).to eq(fresh.downcase)
    expect(now.file_head('/put/there.txt')).to eq("by the editor\n")
    run(*now.judge.last, path)
  end

  it 'leaves a boot record that is described, and code behind it, where it has one' do
    described, sectors = volume.boot_record
    expect(described).to be_nil.or(be_a(Range))
    expect(sectors).to be_between(1, 16)
  end
end
