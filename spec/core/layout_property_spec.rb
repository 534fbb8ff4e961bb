# frozen_string_literal: true

# Five thousand random images, targets and wishes: a plan that is sound, or a
# reason; outside tools judge a sample of the tables.
RSpec.describe Evrel::Layout::Planner do
  seed = 20_261_125
  count = Effort.all? ? 5000 : 1000
  judged = 40

  let(:random) { RandomLayouts.new(seed) }

  # @return [Plan, Evrel::Error]
  def planned(source, target, wish)
    described_class.new(source, target, wish).plan
  rescue Evrel::Refused => e
    e
  end

  def unsound(plan, source, target)
    crossed = plan.places.each_cons(2).select do |one, two|
      one.end > two.start
    end.map { |one, two| "#{one.number} and #{two.number} overlap" }
    crossed + plan.places.flat_map { |place| unsound_place(place, plan, source, target) } + unlike_table(plan, target)
  end

  def unsound_place(place, plan, source, target)
    last = target.size - (plan.table.kind == 'gpt' ? target.sector : 0)
    { 'leaves the disk' => !place.start.positive? || place.end > last,
      'is not on whole sectors' => ((place.start | place.size) % target.sector).positive?,
      'is less than it needs' => place.size < place.part.size && place.size < place.part.least,
      'is not aligned' => !aligned?(place, plan, source) }.filter_map { |words, wrong| "#{place.number} #{words}" if wrong }
  end

  # What moves comes to lie on the alignment; what stays lies where it lay.
  def aligned?(place, plan, source)
    unit = plan.wish.align == 'image' ? source.sector : 1_048_576
    place.start == place.part.start || (place.start % unit).zero?
  end

  def unlike_table(plan, target)
    entries = plan.table.partitions.to_h { |one| [one.number, [one.first_lba * target.sector, one.size]] }
    plan.places.reject do |place|
      entries[place.number] == [place.start, place.size]
    end.map { |place| "#{place.number} is not so in the table" } +
      (entries.size == plan.places.size ? [] : ['the table has other parts'])
  end

  it 'makes the same plan of a source that was told as JSON' do
    told = lambda do |source|
      Evrel::Layout::PlainSource.source(JSON.parse(JSON.generate(Evrel::Layout::PlainSource.told(source))))
    rescue Evrel::Damaged
      nil # its table was made without ever having been on a disk
    end
    read = Array.new(300) { random.triple }.filter_map { |source, *rest| told.call(source)&.then { |one| [one, *rest] } }
    differing = read.reject do |source, target, wish|
      one, two = [source, told.call(source)].map { |from| planned(from, target, wish) }
      one.is_a?(Evrel::Error) ? one.message == two.message : [one.digest, one.checks] == [two.digest, two.checks]
    end
    expect(differing.map(&:last)).to eq([])
    expect(read.size).to be > 150
  end

  it "keeps every part apart, inside, aligned and large enough, #{count} times" do
    plans = Array.new(count) do
      source, target, wish = random.triple
      [planned(source, target, wish), source, target, wish]
    end
    made = plans.select { |plan, *| plan.is_a?(Evrel::Layout::Plan) }
    valid = made.select { |plan, *| plan.valid? }
    wrong = valid.filter_map { |plan, source, target, wish| [wish, unsound(plan, source, target)] if unsound(plan, source, target).any? }

    expect(wrong).to be_empty
    expect((made - valid).map { |plan, *| plan.problem.title + plan.problem.detail.to_s }).to all(match(/\S/))
    # It is about plans: most of them are, and many are valid.
    expect(made.size).to be > count * 8 / 10
    expect(valid.size).to be > count / 4
    judge(valid.each_slice(valid.size / judged).map(&:first))
  end

  it 'makes the same plan of the same input' do
    ones, others = Array.new(2) do
      random = RandomLayouts.new(seed + 1)
      Array.new(100) { planned(*random.triple) }.map { |plan| plan.is_a?(Evrel::Layout::Plan) ? plan.digest : plan.message }
    end
    expect(ones).to eq(others)
  end

  def judge(sample)
    sample.each_with_index do |(plan, _, target, wish), index|
      path = file("table-#{index}")
      Evrel::Disk::File.create(path, target.size)
      open_disk(path, writable: true, logical_sector: target.sector) { |disk| plan.table.write(disk) }
      said = target.sector == 512 ? run('sfdisk', '--verify', path) : run('fdisk', '-b', '4096', path, input: "v\nq\n")
      expect(said).to include('No errors detected'), "#{wish}: #{said}"
      judge_gpt(path, wish) if plan.table.kind == 'gpt' && target.sector == 512
      File.delete(path)
    end
  end

  # It warns of parts that are not aligned, which is a fact of the layout, not a fault of the table.
  def judge_gpt(path, wish)
    said = run('sgdisk', '-v', path)
    expect(said).to include('No problems found'), "#{wish}: #{said}"
  end
end
