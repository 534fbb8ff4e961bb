# frozen_string_literal: true

# Every kind of volume that is known here, held to the contract of all.
RSpec.describe Evrel::Volume do
  mib = Disks::MIB

  { 'ext2' => %w[-t ext2], 'ext3' => %w[-t ext3], 'ext4' => %w[-t ext4] }.each do |kind, options|
    describe kind do
      it_behaves_like('a volume') { let(:path) { made_once(kind) { |name| ext(name, 64 * mib, *options) } } }
    end
  end

  { 'fat12' => [8, 12], 'fat16' => [64, 16], 'fat32' => [96, 32] }.each do |kind, (size, bits)|
    describe kind do
      it_behaves_like('a volume') { let(:path) { made_once(kind) { |name| fat(name, size * mib, bits) } } }
    end
  end

  { 'ntfs' => [64, %w[mkntfs -F -Q]], 'swap' => [16, %w[mkswap -q]], 'xfs' => [320, %w[mkfs.xfs -q]], 'btrfs' => [128, %w[mkfs.btrfs -q]],
    'exfat' => [32, %w[mkfs.exfat]] }.each do |kind, (size, command)|
    describe kind do
      it_behaves_like('a volume') do
        let(:path) { made_once(kind) { |name| sparse(name, size * mib).tap { |made| run(*command, made) } } }
      end
    end
  end

  describe 'a container' do
    it_behaves_like('a volume') do
      let(:path) do
        sparse('container', 32 * mib).tap do |made|
          run('cryptsetup', 'luksFormat', '-q', '--type', 'luks2', '--pbkdf', 'pbkdf2', '--pbkdf-force-iterations', '1000', made,
              input: 'low water')
        end
      end
    end
  end

  describe 'bytes that nothing recognises' do
    it_behaves_like('a volume') { let(:path) { sparse('unknown', 8 * mib).tap { |made| File.write(made, 'tide table', 4096) } } }
  end
end
