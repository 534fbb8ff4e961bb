# frozen_string_literal: true

RSpec.describe Evrel::Shelf do
  let(:folder) { file('shelf').tap { |path| FileUtils.mkdir_p(path) } }

  # @return [Array] what was found, and the summary
  def look(shelf, **options)
    found = []
    summary = Evrel::Shelf::Look.new(shelf, **options).run { |one, _, _| (found << one if one) && nil }
    [found, summary]
  end

  def problems(shelf) = look(shelf).first.to_h { |one| [one.path, one.problem] }

  def on_shelf(source, name)
    FileUtils.mkdir_p(File.dirname(File.join(folder, name)))
    run('cp', '-r', '--sparse=always', source, File.join(folder, name))
  end

  describe Evrel::Shelf::Folder do
    let(:shelf) { described_class.new(folder) }

    it 'is never left, neither by a path nor by a link' do
      File.write(file('secret'), 'outside')
      File.symlink(file('secret'), File.join(folder, 'link'))
      File.symlink(file('.'), File.join(folder, 'up'))
      ['../secret', 'a/../../secret', 'link', 'up/secret'].each do |path|
        expect { shelf.open(path) }.to raise_error(Evrel::Refused), path
      end
      expect(shelf.each_file.to_a).to be_empty
    end

    it 'finds images by content, whatever their names, and takes only what changed the next time' do
      on_shelf(captured(three_parts, 'one'), 'deep/er/office')
      on_shelf(three_parts('second'), 'holiday.jpg')
      File.write(File.join(folder, 'disk.qcow2'), 'no disk at all')
      File.binwrite(File.join(folder, 'noise.raw'), Random.new(1).bytes(400_000))

      found, summary = look(shelf)
      expect(found.map(&:path)).to contain_exactly('deep/er/office', 'holiday.jpg')
      expect(summary.files).to eq(9)

      known = summary.stamps.transform_values { |stamp| Evrel::Shelf::Look::Known.new(stamp, nil) }
      expect(look(shelf, known:).first).to be_empty
      FileUtils.touch(File.join(folder, 'holiday.jpg'), mtime: Time.now + 60)
      expect(look(shelf, known:).first.map(&:path)).to eq(['holiday.jpg'])
    end

    it 'goes on past what cannot be read, and names it' do
      on_shelf(three_parts, 'good.raw')
      manifest = File.join(folder, 'broken/manifest.json')
      FileUtils.mkdir_p(File.dirname(manifest))
      File.write(manifest, '{"format": "evrel-image", ')
      expect(problems(shelf)).to match('good.raw' => nil, 'broken' => /lacks disk.qcow2/)
    end

    it 'takes a chain for one image, and says what of it is missing or was changed' do
      run('qemu-img', 'convert', '-O', 'qcow2', three_parts, File.join(folder, 'base.qcow2'))
      run('qemu-img', 'create', '-q', '-f', 'qcow2', '-b', 'base.qcow2', '-F', 'qcow2', File.join(folder, 'top.qcow2'))
      found, summary = look(shelf)
      expect(found.find { |one| one.path == 'top.qcow2' }.members).to eq(%w[top.qcow2 base.qcow2])
      expect(summary.absorbed).to eq(['base.qcow2'])

      FileUtils.touch(File.join(folder, 'base.qcow2'), mtime: Time.now + 60)
      top = look(shelf).first.find { |one| one.path == 'top.qcow2' }
      expect(top.document.document['findings']).to include(/base.qcow2 was changed after/)
      File.delete(File.join(folder, 'base.qcow2'))
      expect(problems(shelf)).to eq('top.qcow2' => 'base.qcow2 is missing, on which top.qcow2 builds')
    end

    it 'takes pieces for one image, and names the one that is missing' do
      run('split', '-b', '150M', '-d', '-a', '3', '--numeric-suffixes=1', three_parts, File.join(folder, 'disk.'))
      expect(look(shelf).first.map { |one| [one.path, one.members.size, one.problem] }).to eq([['disk.001', 5, nil]])
      File.delete(File.join(folder, 'disk.003'))
      expect(problems(shelf)).to eq('disk.001' => 'disk.003 is missing')
    end

    it 'does not take two disks whose names end in numbers for pieces of one' do
      on_shelf(three_parts('one'), 'disk-1')
      on_shelf(three_parts('two'), 'disk-2')
      File.binwrite(File.join(folder, 'noise 23'), Random.new(1).bytes(90_000))
      File.binwrite(File.join(folder, 'noise 63'), Random.new(2).bytes(80_000))
      expect(look(shelf).first.map(&:path)).to contain_exactly('disk-1', 'disk-2')
    end
  end

  describe Evrel::Shelf::Web do
    let(:address) { served(folder) }

    def web(**options) = described_class.new(address, networks: ['127.0.0.1'], **options)

    it 'finds and reads the same images as in the folder itself' do
      on_shelf(captured(three_parts), 'TKT 03/été #1')
      on_shelf(three_parts('second'), 'plain.raw')
      expect(look(web).first.map(&:path)).to match_array(look(Evrel::Shelf::Folder.new(folder)).first.map(&:path))

      image = Evrel::Image.at(web, 'TKT 03/été #1')
      expect(Evrel::Image::Check.new(image).run).to be_whole
    end

    it 'signs in, and says when the sign-in is lost' do
      on_shelf(three_parts, 'plain.raw')
      misbehave(folder, user: 'quay', password: 'lamp')
      expect { look(web) }.to raise_error(Evrel::Unreadable, /another sign-in/)
      shelf = web(user: 'quay', password: 'lamp')
      expect(look(shelf).first.size).to eq(1)
      misbehave(folder, lost_password: true)
      expect { look(web(user: 'quay', password: 'lamp')) }.to raise_error(Evrel::Unreadable, /another sign-in/)
    end

    it 'asks again where the line breaks' do
      on_shelf(captured(three_parts), 'image')
      misbehave(folder, drop_every: 3)
      image = Evrel::Image.at(web, 'image')
      expect(Evrel::Image::Check.new(image).run).to be_whole
    end

    it 'says where a file ends early' do
      on_shelf(captured(three_parts), 'image')
      misbehave(folder, truncated: { 'image/disk.qcow2' => 300_000 })
      expect { Evrel::Image.at(web, 'image').then { |image| Evrel::Image::Check.new(image).run } }
        .to raise_error(Evrel::Unreadable, /disk.qcow2 ends early/)
    end

    it 'notices a file that is changed while it is read' do
      on_shelf(three_parts, 'plain.raw')
      disk = web.open('plain.raw')
      disk.read(0, 512)
      FileUtils.touch(File.join(folder, 'plain.raw'), mtime: Time.now + 60)
      expect { disk.read(300 * Disks::MIB, 512) }.to raise_error(Evrel::Unreadable, /was changed on the server/)
    end

    it 'follows no link that leads out of the shelf' do
      FileUtils.mkdir_p(File.join(folder, 'inner'))
      File.write(File.join(folder, 'secret.txt'), 'outside')
      File.write(File.join(folder, 'inner/index'), 'x')
      shelf = described_class.new("#{address}inner", networks: ['127.0.0.1'])
      expect(shelf.each_file.map(&:path)).to eq(['index'])
      expect { shelf.open('../secret.txt') }.to raise_error(Evrel::Refused)
    end

    it 'says that nobody answers' do
      stub_const('Evrel::Shelf::WebRequests::WAIT', 0.01)
      nobody = described_class.new('http://127.0.0.1:9/', networks: ['127.0.0.1'])
      expect { look(nobody) }.to raise_error(Evrel::Unreadable, /does not answer/)
      expect { described_class.new('ftp://quay/') }.to raise_error(Evrel::Refused)
    end
  end
end
