# frozen_string_literal: true

RSpec.describe Evrel::Safety do
  let(:purpose) do
    Evrel::Safety::Purpose.new(docket: 'D-0001', computer: 'TKT-03', needs: 240 * (10**9), logical_sector: 512,
                               shelf: 'Holm', disk_guid: 'a')
  end
  let(:clear) do
    { identity: Evrel::Identity.new(serial: 'TF48-7Q4F', capacity: 480 * (10**9)), logical_sector: 512, physical_sector: 4096,
      health: { 'state' => 'good', 'reason' => 'fine' }, read_only: false, in_use: false, shelves: [], docket: nil,
      volumes: [], owner: nil, disk_guid: nil, twins: [] }
  end

  def judge(**changes) = described_class.judge(Evrel::Safety::Candidate.new(**clear, **changes), purpose)

  def drive(serial: 'TF48-7Q4F', capacity: 480 * (10**9)) = Evrel::Identity.new(serial:, capacity:)

  system = [{ 'role' => 'system', 'label' => 'System', 'used_bytes' => 10**9 }]

  it 'finds a blank, healthy drive of the right size clear' do
    expect(judge.state).to eq(:clear)
    expect(judge.reason).to be_nil
  end

  # Each rule on its case, and not on the near case.
  {
    'holds the image' => [{ shelves: ['Holm'] }, :refused, 'shelf', {}],
    'holds another shelf' => [{ shelves: ['Office'] }, :refused, 'shelf', {}],
    'locked by another docket' => [{ docket: 'D-0002' }, :refused, 'locked', { docket: 'D-0001' }],
    'in use' => [{ in_use: true }, :refused, 'in-use', {}],
    'read-only' => [{ read_only: true }, :refused, 'read-only', {}],
    'without a serial' => [{ identity: Evrel::Identity.new(serial: 'X', capacity: 480 * (10**9)) }, :refused, 'serial',
                           { identity: Evrel::Identity.new(serial: 'WXYZ', capacity: 480 * (10**9)) }],
    'one byte too small' => [{ identity: Evrel::Identity.new(serial: 'WXYZ', capacity: (240 * (10**9)) - 1) }, :refused, 'size',
                             { identity: Evrel::Identity.new(serial: 'WXYZ', capacity: 240 * (10**9)) }],
    'of another sector size' => [{ logical_sector: 4096 }, :refused, 'sector', {}],
    'failing' => [{ health: { 'state' => 'failing', 'reason' => 'r' } }, :refused, 'health', {}],
    'worn' => [{ health: { 'state' => 'worn', 'reason' => 'r' } }, :ask, 'health', {}],
    'of unknown health' => [{ health: { 'state' => 'odd', 'reason' => 'r' } }, :ask, 'health', {}],
    'with a system of another computer' => [{ owner: 'CAM-01', volumes: system }, :ask, 'owner', { owner: 'CAM-01' }],
    'the original drive' => [{ owner: 'TKT-03', volumes: system }, :ask, 'owner', { owner: 'TKT-03' }],
    'not empty' => [{ volumes: [{ 'label' => 'old', 'used_bytes' => 5 }] }, :ask, 'contents', {}],
    'with a look-alike' => [{ twins: ['1'] }, :ask, 'look-alike', {}],
    'with the identity of the image’s disk' => [{ disk_guid: 'a' }, :ask, 'same-disk', { disk_guid: 'b' }]
  }.each do |name, (changes, state, rule, near)|
    it "judges a drive that is #{name}" do
      verdict = judge(**changes)
      expect(verdict.state).to eq(state)
      expect(verdict.reason).to have_attributes(id: rule, title: be_present_text, detail: be_present_text)
      expect(judge(**near).facts.select { |fact| fact.id == rule }.map(&:state)).to all(eq(:ok))
    end
  end

  RSpec::Matchers.define(:be_present_text) { match { |text| text.is_a?(String) && !text.strip.empty? } }

  it 'is refused by the worst fact, whatever else is fine' do
    expect(judge(shelves: ['Holm'], twins: ['1'], volumes: system).state).to eq(:refused)
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
      expect(one.differences(described_class.new(serial: 'B', model: 'M', capacity: 1, fingerprint: 'y')))
        .to eq(['serial: A was sealed, B is there now', 'its table or volumes have changed'])
    end

    it 'hides the last four characters' do
      expect(described_class.mask('TF48-2209-7Q4F')).to eq('TF48-2209-••••')
      expect(described_class.mask('AB')).to eq('••')
      expect(described_class.mask(nil)).to be_nil
    end
  end
end
