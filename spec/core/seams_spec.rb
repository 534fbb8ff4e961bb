# frozen_string_literal: true

# The kinds of shelves, cluster sources and tables that are known here, held to the contracts of all.
RSpec.describe Evrel do
  describe Evrel::Shelf::Folder do
    it_behaves_like('a shelf') do
      let(:shelf) { described_class.new(stocked) }
      let(:again) { shelf }
    end
  end

  describe Evrel::Shelf::Web do
    it_behaves_like('a shelf') do
      let(:address) { served(stocked) }
      let(:shelf) { described_class.new(address, networks: ['127.0.0.1']) }
      let(:again) { described_class.new(address, networks: ['127.0.0.1']) }
    end
  end

  describe Evrel::Image do
    let(:plain) { three_parts }
    let(:source) { Evrel::Image.open(path) }

    after { source.close }

    describe Evrel::Image::Native do
      it_behaves_like('a cluster source') { let(:path) { captured(plain) } }
    end

    describe Evrel::Image::Live do
      it_behaves_like('a cluster source') do
        let(:source) { described_class.new(open_disk(plain), uid: described_class.uid('s-1', 'f'), taken_at: Time.now) }
      end
    end

    %w[raw qcow2 vmdk vhdx vdi vpc].each do |format|
      describe "foreign, #{format}" do
        it_behaves_like('a cluster source') do
          let(:path) { file("foreign.#{format}").tap { |made| run('qemu-img', 'convert', '-O', format, plain, made) } }
        end
      end
    end
  end

  describe Evrel::Restore::WorkingFile do
    it_behaves_like('a cluster source') do
      let(:plain) { sparse('part', 9 * Disks::MIB).tap { |path| File.binwrite(path, Random.new(2).bytes(300_000), 60_000) } }
      let(:source) do
        described_class.list(plain, file('list'))
        described_class.new(plain, file('list'))
      end
    end
  end

  describe Evrel::Table do
    describe Evrel::Table::Gpt do
      it_behaves_like('a table') { let(:path) { three_parts } }
    end

    describe Evrel::Table::Mbr do
      it_behaves_like('a table') do
        let(:path) do
          partitioned('mbr', 64 * Disks::MIB, <<~SCRIPT)
            label: dos
            1: start=1M, size=8M, type=ef
            2: start=9M, size=20M, type=83, bootable
            3: start=29M, size=30M, type=5
            5: start=30M, size=10M, type=82
            6: start=41M, size=4M, type=7
          SCRIPT
        end
      end
    end
  end
end
