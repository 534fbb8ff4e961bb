# frozen_string_literal: true

# A system that sleeps has in memory what counts for more than what lies on its
# disk: whoever looks at the image, plans it or reads its start is told.
RSpec.describe 'A hibernated system' do
  include DoubtfulVolumes

  def disk
    @disk ||= partitioned('disk.raw', 64 * Disks::MIB, "label: dos\nstart=2048, size=20M, type=7, bootable\n").tap do |path|
      volume = sound(:ntfs)
      File.binwrite(file('asleep'), 'hibr'.ljust(8192, "\0"))
      run('ntfscp', '-q', volume, file('asleep'), 'hiberfil.sys')
      copy_in(volume, path, Disks::MIB)
    end
  end

  def image = @image ||= Evrel::Image.open(captured(disk))

  it 'is told in the manifest, and kept whole' do
    volume = image.manifest.partitions.first['volume']
    expect(volume).to include('hibernated' => true, 'clean' => false, 'doubts' => [/hibernated/])
    expect(Evrel::Image::Structure.notes(image)).to include(/a system sleeps on part 1/)
  end

  it 'is told where an image is chosen' do
    offer = Evrel::Match::Offer.new(key: 1, document: image.manifest, state: 'whole', checked_at: Time.now, reachable: true, where: 'here')
    ranking = Evrel::Match.rank([offer], Evrel::Match::Problem.new(host_names: [], drive_serials: [], disk_guids: [])).first
    expect(ranking.facts.map(&:title)).to include('The system was hibernated', 'More was kept than its maps say')
  end

  it 'is told where it is planned, and keeps its size' do
    source = Evrel::Layout::Source.of(image)
    target = Evrel::Layout::Target.new(size: 128 * Disks::MIB, sector: 512)
    plan = Evrel::Layout::Planner.new(source, target, { 'way' => 'as_in_image' }).plan
    expect(plan.checks.map(&:id)).to include('asleep', 'whole')
    expect(source.parts.first).not_to be_resizable
  end
end
