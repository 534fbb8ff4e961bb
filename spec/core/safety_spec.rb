# frozen_string_literal: true

RSpec.describe Evrel::Safety do
  gb = 10**9
  now = Time.now
  let(:purpose) do
    Evrel::Safety::Purpose.new(docket: 'D-0001', computer: 'TKT-03', needs: 240 * gb, amount: 60 * gb, logical_sector: 512,
                               shelf: 'Holm', disk_guid: 'a', taken_at: now - 86_400, table_kind: 'gpt', rotating: false,
                               parts:)
  end
  let(:parts) do
    [{ 'number' => 1, 'role' => 'startup', 'name' => 'Start-up', 'size_bytes' => gb },
     { 'number' => 2, 'role' => 'system', 'name' => 'System', 'size_bytes' => 238 * gb },
     { 'number' => 3, 'role' => 'recovery', 'name' => 'Recovery', 'size_bytes' => gb }]
  end
  healthy = Evrel::Health::Report.new(state: 'good', reason: 'fine')
  clear = { logical_sector: 512, physical_sector: 4096, health: healthy, read_only: false, removable: false, rotating: false,
            running: false, in_use: nil, speed: 400 * (10**6), bus: 'SATA', shelves: [], docket: nil, protection: nil, volumes: [],
            owner: nil, hosts: [], newest: nil, newest_image: nil, disk_guid: nil, twins: [], near: {}, conflicts: [], same_disk: [],
            identity: Evrel::Identity.new(serial: 'TF48-7Q4F', capacity: 480 * gb) }.freeze

  define_method(:judge) do |purpose: self.purpose, **changes|
    described_class.judge(Evrel::Safety::Candidate.new(**clear, **changes), purpose)
  end

  def self.sized(capacity, serial: 'WXYZ') = Evrel::Identity.new(serial:, capacity:)
  def self.health(state) = Evrel::Health::Report.new(state:, reason: 'r')

  system = [{ 'role' => 'system', 'label' => 'System', 'used_bytes' => gb }]
  data = [{ 'role' => 'data', 'label' => 'old', 'used_bytes' => 5 }]
  unread = [{ 'role' => 'data', 'label' => 'quay', 'kind' => 'btrfs', 'used_bytes' => gb }]

  it 'finds a blank, healthy drive of the right size clear, and asks nothing' do
    expect(judge).to have_attributes(state: :clear, reason: nil, decisions: [])
  end

  it 'asks of a drive whose system may be one that cannot be read, but not where it is known whose it is' do
    verdict = judge(volumes: unread)
    expect(verdict).to have_attributes(state: :ask, decisions: include('owner'))
    expect(verdict.facts.find { |fact| fact.id == 'owner' })
      .to have_attributes(title: 'May hold a system that cannot be read', detail: /quay is btrfs/)
    expect(judge(volumes: unread, owner: 'TKT-03').facts.map(&:id)).not_to include('owner')
  end

  it 'says of a card or stick that its health is not known, and asks nobody to decide about it' do
    unknown = Evrel::Health.of(nil)
    card = judge(health: unknown, removable: true)
    expect(card.decisions).to eq(['removable'])
    expect(card.facts.find { |fact| fact.id == 'no-health' }).to have_attributes(state: :ask, title: 'Health not known')
    expect(judge(health: unknown).decisions).to eq(['health'])
  end

  # Each rule on its case, and not on the near case.
  matrix = {
    shelf: [:refused, { shelves: ['Holm'] }, {}],
    moved: [:ask, { moved: { 'to' => 'the new one', 'ago' => 86_400, 'kept' => now + 86_400 } },
            { moved: { 'to' => 'the new one', 'ago' => 30 * 86_400, 'kept' => nil } }],
    source: [:refused, { source_of: ['D-0002'] }, { source_of: [] }],
    running: [:refused, { running: true }, {}],
    'in-use': [:refused, { in_use: 'mounted at /srv' }, {}], locked: [:refused, { docket: 'D-0002' }, { docket: 'D-0001' }],
    protected: [:refused, { protection: { 'by' => 'K. Moe', 'note' => 'accounts', 'until' => now + 86_400 } }, {}],
    conflict: [:refused, { conflicts: ['4'] }, { twins: ['4'] }], 'read-only': [:refused, { read_only: true }, {}],
    failing: [:refused, { health: health('failing') }, { health: health('worn') }],
    size: [:refused, { identity: sized((240 * gb) - 1) }, { identity: sized(240 * gb) }],
    health: [:ask, { health: health('worn') }, {}], contents: [:ask, { volumes: data }, {}],
    owner: [:ask, { owner: 'CAM-01', volumes: system }, { owner: 'CAM-01' }],
    newer: [:ask, { newest: now }, { newest: now - 90_000 }], sector: [:ask, { logical_sector: 4096 }, {}],
    removable: [:ask, { removable: true }, {}], speed: [:ask, { speed: 30 * (10**6) }, { speed: 34 * (10**6) }],
    kind: [:ask, { rotating: true }, { rotating: nil }], 'same-disk': [:ask, { same_disk: ['2'] }, {}]
  }
  matrix.each do |id, (state, changes, near)|
    it "judges by the rule #{id}, and not where it is only nearly so" do
      verdict = judge(**changes)
      fact = verdict.facts.find { |one| one.id == id.to_s }
      expect(verdict.state).to eq(state)
      expect(fact).to have_attributes(state: state == :refused ? :no : :ask, title: /\w/, detail: /\w/, evidence: /\w/)
      expect(verdict.decisions).to include(id.to_s) if state == :ask
      expect(judge(**near).facts.select { |one| one.id == id.to_s }.map(&:state)).to all(eq(:ok))
    end
  end

  it 'asks where a table cannot reach the end of the drive' do
    mbr = purpose.dup.tap { |one| one.table_kind = 'mbr' }
    four = self.class.sized(4000 * gb)
    expect(judge(purpose: mbr, identity: four).reason).to have_attributes(id: 'reach', detail: /2\.2 TB.*1\.8 TB stay unused/)
    expect(judge(identity: four).state).to eq(:clear)
    expect(judge(purpose: mbr, identity: self.class.sized(2199 * gb)).state).to eq(:clear)
  end

  it 'has a case in the matrix for every rule that decides' do
    deciding = described_class::RULES.reject { |rule| rule.severity == :note }.map(&:id)
    expect(matrix.keys.map(&:to_s) + ['reach']).to match_array(deciding)
    expect(described_class::RULES.map(&:id).uniq.size).to eq(described_class::RULES.size)
  end

  it 'says what is worth knowing without asking anybody to decide' do
    { 'original' => { owner: 'TKT-03', volumes: system }, 'of-image' => { disk_guid: 'a' },
      'look-alike' => { twins: ['1'], near: { '1' => 1 } },
      'serial' => { identity: self.class.sized(480 * gb, serial: '') } }.each do |id, changes|
      verdict = judge(**changes)
      expect(verdict.facts.map(&:id)).to include(id)
      expect(verdict.decisions).not_to include(id)
    end
    expect(judge(twins: ['1'], near: { '1' => 1 }).facts.last.detail)
      .to eq('Same maker, same size on port 1; the serial of port 1 differs by 1 character')
  end

  it 'is refused by the worst fact, whatever else is fine' do
    expect(judge(shelves: ['Holm'], twins: ['1'], volumes: system).state).to eq(:refused)
  end

  it 'says by how much a drive is too small, and which parts would have to go' do
    expect(judge(identity: self.class.sized((239.5 * gb).to_i)).reason)
      .to have_attributes(title: '500 MB too small', detail: /; Recovery would have to go\z/)
    expect(judge(identity: self.class.sized(228 * gb)).reason.detail).to end_with('even without Recovery it lacks 11.0 GB')
  end

  it 'says whether an image holds what is newer' do
    details = [nil, now - 7200, now].map { |newest_image| judge(newest: now, newest_image:).reason.detail }
    expect(details).to match([/no image of this drive exists/, /newest image of this drive is 2 h older/,
                              /an image of this drive holds that/])
  end

  describe Evrel::Identity do
    let(:path) { partitioned('disk', 64 * Disks::MIB, "label: gpt\nsize=20M, type=L\n") }

    def fingerprint = open_disk(path) { |disk| described_class.fingerprint(disk) }

    it 'has a fingerprint that changes with the table and the volumes, not with time' do
      before = fingerprint
      expect(fingerprint).to eq(before)
      flip(path, Disks::MIB + 1080)
      changed = fingerprint
      expect(changed).not_to eq(before)
      run('sgdisk', '-n', '2:0:+10M', path)
      expect(fingerprint).not_to eq(changed)
    end

    it 'says in words what differs' do
      one = described_class.new(serial: 'A', model: 'M', capacity: 1, fingerprint: 'x')
      expect(one.differences(one)).to be_empty
      expect(one.differences(described_class.new(serial: 'B', model: 'M', capacity: 1, fingerprint: 'y')).map(&:words))
        .to eq(['serial: A was sealed, B is there now', 'its table or volumes have changed'])
    end

    it 'hides the last four characters' do
      expect(described_class.mask('TF48-2209-7Q4F')).to eq('TF48-2209-••••')
      expect(described_class.mask('AB')).to eq('••')
      expect(described_class.mask(nil)).to be_nil
    end

    it 'knows serials that look alike, and drives that have none' do
      expect(described_class.near('TF48-7Q4F', 'TF48-7Q1F')).to eq([7])
      expect(described_class.near('TF48-7Q4F', 'TF48-7O1F')).to eq([6, 7])
      [%w[TF48-7Q4F TF48-7Q4F], %w[TF48-7Q4F TF48-AB1F], %w[TF48-7Q4F TF48-7Q4], [nil, nil]].each do |pair|
        expect(described_class.near(*pair)).to be_nil
      end
      drive = { model: 'Lume Card', capacity: 5 }
      keys = [['S1234', 'w'], ['', 'w'], [nil, nil]].map { |serial, wwn| described_class.key(serial:, wwn:, **drive) }
      expect(keys).to eq(['S1234', 'no serial, w', 'no serial, Lume Card, 5'])
    end
  end
end
