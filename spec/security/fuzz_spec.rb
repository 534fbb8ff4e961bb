# frozen_string_literal: true

require 'stringio'
require 'timeout'
require_relative '../support/made_hive'
require_relative '../support/spoiled_disk'

# Whatever others made and somebody spoiled: a typed error or a true answer, no
# name that leads out of its folder, and no more memory than what is read takes.
# 2,000 inputs in every run, 100,000 with EVREL_EFFORT=all, the same for the same seed.
RSpec.describe 'Spoiled input', :in_memory do
  inputs = Effort.all? ? 100_000 : 2_000
  numbers = [0, 1, 2, 0x7F, 0x80, 0xFF, 0x7FFF, 0xFFFF, 0x7FFF_FFFF, 0x8000_0000, 0xFFFF_FFFF, (2**63) - 1, 2**63, (2**64) - 1].freeze

  # @return [Hash{Integer=>String}]
  define_method(:patches) do |random, places, size|
    Array.new(random.rand(1..6)) do
      place = places.sample(random:)
      at = [place.begin + random.rand([place.size, 1].max), size - 1].min
      put = case random.rand(4)
            when 0 then random.bytes(1)
            when 1 then [numbers.sample(random:)].pack(%w[S< L< Q< S> L> Q>].sample(random:))
            when 2 then random.bytes(random.rand(1..64))
            else ("\0".b * random.rand(1..512))
            end
      [at, put.byteslice(0, size - at)]
    end.to_h
  end

  def spoiled(bytes, patches)
    patches.each_with_object(bytes.dup) { |(at, put), copy| copy[at, put.bytesize] = put }
  end

  def look_into(volume)
    return unless volume.browsable?

    volume.each_entry.first(60).each do |entry|
      names = entry.path.delete_prefix('/').split('/', -1)
      raise "#{entry.path.inspect} leads out" if names.any? { |name| ['', '.', '..'].include?(name) || name.include?("\0") }

      volume.file_head(entry.path, 3000) if entry.file?
    rescue Evrel::Error
      next # one bad file bars no other
    end
  end

  def read_disk(disk)
    map = Evrel::Image::UsedMap.new(disk)
    map.each_cluster.first(50)
    Evrel::Table::SfdiskScript.dump(map.table) if map.table
    map.all.each { |part| look_into(part.volume) }
  end

  def volume(path) = File.binread(path)

  def small_ext(**how)
    run('mke2fs', '-q', '-F', '-t', how.fetch(:type, 'ext4'), '-b', '1024', '-I', '256', '-d', tree, path = sparse("e-#{how[:type]}", 6 * Disks::MIB))
    volume(path)
  end

  def small_fat
    path = sparse('f', 2 * Disks::MIB)
    run('mkfs.vfat', '-F', '12', path)
    File.write(file('card'), 'a card ' * 900)
    run('mmd', '-i', path, '::quay')
    run('mcopy', '-i', path, file('card'), '::quay/a long name of a card.txt')
    volume(path)
  end

  def small_ntfs
    path = sparse('n', 4 * Disks::MIB)
    run('mkntfs', '-q', '-F', '-Q', path)
    File.write(file('card'), 'a card ' * 900)
    3.times { |number| run('ntfscp', '-q', path, file('card'), "card-#{number}.txt") }
    volume(path)
  end

  def small_qcow2
    File.binwrite(file('raw'), Random.new(1).bytes(300_000) + ('quay ' * 60_000))
    run('qemu-img', 'convert', '-c', '-O', 'qcow2', '-o', 'compression_type=zstd', file('raw'), file('small.qcow2'))
    volume(file('small.qcow2'))
  end

  def partitioned_bytes(script)
    path = partitioned('table', 64 * Disks::MIB, script)
    File.binread(path, 40 * Disks::MIB / 10)
  end

  def tar
    Dir.mkdir(file('packed'))
    File.write(file('packed/card'), 'a card ' * 900)
    run('tar', '--format=pax', '-C', file('packed'), '-cf', file('tar'), '.')
    volume(file('tar'))
  end

  def cpio
    FileUtils.mkdir_p(file('rd/etc'))
    File.write(file('rd/etc/fstab'), 'a card ' * 90)
    run('sh', '-c', "cd #{file('rd')} && find . | cpio --quiet -o -H newc > #{file('cpio')}")
    volume(file('cpio'))
  end

  gpt = "label: gpt\nsize=8M, name=\"one\"\nsize=16M\nsize=4M\n"
  mbr = "label: dos\nsize=8M, type=83, bootable\nsize=20M, type=5\nsize=4M, type=83\nsize=4M, type=7\n"
  on_disk = ->(bytes, spoil, spec) { spec.read_disk(SpoiledDisk.new(bytes, spoil, size: [bytes.bytesize, 64 * Disks::MIB].max)) }
  alone = ->(bytes, spoil, spec) { spec.look_into(Evrel::Volume.recognise(SpoiledDisk.new(bytes, spoil))) }
  text = ->(read) { ->(bytes, spoil, spec) { read.call(spec.spoiled(bytes, spoil).force_encoding('UTF-8')) } }
  # Of what, how it is made, where it is spoiled, and how it is read.
  kinds = {
    'GPT' => [-> { partitioned_bytes(gpt) }, [0..511, 512..700, 1024..1600], on_disk],
    'MBR' => [-> { partitioned_bytes(mbr) }, [440..511, 440..511], on_disk],
    'ext4' => [-> { small_ext }, [1024..1400, 2048..3072, 3072..90_000, 90_000..600_000], alone],
    'ext2' => [-> { small_ext(type: 'ext2') }, [1024..1400, 2048..3072, 3072..90_000, 90_000..600_000], alone],
    'FAT' => [-> { small_fat }, [0..90, 512..8000, 8000..20_000], alone],
    'NTFS' => [-> { small_ntfs }, [0..90, 16_384..60_000, 16_384..90_000, 0..4_000_000], alone],
    'qcow2' => [-> { small_qcow2 }, [0..120, 65_536..66_200, 131_072..132_000, 196_608..262_200],
                lambda { |bytes, spoil, _|
                  file = SpoiledDisk.new(bytes.ljust((bytes.bytesize + 511) / 512 * 512, "\0"), spoil)
                  opened = Evrel::Image::Qcow2.new(file, name: 'small')
                  5.times { |number| opened.read(number * 65_536, 65_536) if (number + 1) * 65_536 <= opened.size }
                }],
    'manifests' => [-> { File.binread(File.join(captured(three_parts), 'manifest.json')) }, [0..8000],
                    text.call(->(bytes) { Evrel::Image::Manifest.parse(bytes).then { |one| [one.parts, one.needs, one.least] } })],
    'lists of digests' => [-> { File.binread(File.join(captured(three_parts), 'clusters.b3'), 16_056) }, [0..40, 16..4000],
                           lambda { |bytes, spoil, spec|
                             list = Evrel::Image::Digests.new(spec.small_disk(spec.spoiled(bytes, spoil)), 'list')
                             list.each_batch.to_a
                             list.of(20)
                           }],
    'descriptors' => [lambda {
                        run('qemu-img', 'create', '-q', '-f', 'vmdk', '-o', 'subformat=twoGbMaxExtentFlat', file('d.vmdk'), '8M')
                        volume(file('d.vmdk'))
                      }, [0..600],
                      lambda { |bytes, spoil, spec|
                        Evrel::Image::VmdkDescriptor.check(spec.small_disk(spec.spoiled(bytes, spoil)), 'd.vmdk')
                      }],
    'tar' => [-> { tar }, [0..512, 512..1600, 0..4000],
              ->(bytes, spoil, spec) { Evrel::Archive::TarReader.send(:entries, StringIO.new(spec.spoiled(bytes, spoil))) { nil } }],
    'cpio' => [-> { cpio }, [0..400],
               lambda { |bytes, spoil, spec|
                 Evrel::Startup::Cpio.each(StringIO.new(spec.spoiled(bytes, spoil))) do |_, read|
                   read.call(1000)
                 end
               }],
    'start-up stores' => [-> { MadeHive.store(part: SecureRandom.uuid, disk: SecureRandom.uuid, path: '\\loader') }, [0..60, 4096..9000],
                          lambda { |bytes, spoil, spec|
                            hive = Evrel::Hive.new(spec.spoiled(bytes, spoil))
                            hive.keys(hive.root).each { |key| hive.keys(key) }
                            hive.find('Objects')&.then { |key| hive.keys(key).each { |one| hive.find('Objects', one.name, 'Elements') } }
                          }],
    'LUKS headers' => [lambda {
                         Evrel::Luks::Writer.create(file('luks'), 'tide').close
                         File.binread(file('luks'), 592)
                       }, [0..592], ->(bytes, spoil, spec) { Evrel::Luks::Header.new(spec.spoiled(bytes, spoil), 4 * Disks::MIB) }],
    'tables of names' => [-> { "target,name,address\n7A2C,KSK-02,10.1.4.2\n\"3\",KSK-03,\n".b }, [0..60],
                          text.call(->(bytes) { Evrel::Own::Names.parse(bytes) })],
    'menus' => [-> { "set a=b\nif [ $a = b ]; then\n menuentry 'x' {\n linux /vmlinuz root=UUID=$a\n}\nfi\n".b }, [0..80],
                text.call(->(bytes) { Evrel::Startup::GrubScript.parse(bytes) })]
  }

  def small_disk(bytes)
    SpoiledDisk.new(bytes, {}, size: bytes.bytesize + 512).tap { |disk| disk.instance_variable_set(:@size, bytes.bytesize) }
  end

  def memory = File.read('/proc/self/status')[/^VmRSS:\s+(\d+)/, 1].to_i / 1024

  kinds.each_with_index do |(name, (make, places, read)), kind|
    it "in #{name} ends in a typed error or an answer" do
      bytes = instance_exec(&make)
      read.call(bytes, {}, self) # sound as it was made
      before = memory
      (inputs / kinds.size).times do |seed|
        random = Random.new((kind << 32) + seed)
        spoil = patches(random, places, bytes.bytesize)
        begin
          Timeout.timeout(20) { read.call(bytes, spoil, self) }
        rescue Evrel::Error
          nil
        rescue StandardError, SystemStackError, NoMemoryError => e
          raise "seed #{seed}, #{spoil.transform_values(&:bytesize)}: #{e.class}: #{e.message}\n#{e.backtrace.first(6).join("\n")}"
        end
      end
      expect(memory - before).to be < 400
    end
  end
end
