# frozen_string_literal: true

require_relative 'browser_helper'

# Whatever works in the background is stopped in the middle, in every way that a
# machine knows, and ends as if nothing had been; the page says what goes on.
# One moment for some kinds and ways, with EVREL_EFFORT=all twenty for every one.
RSpec.describe 'Work that is stopped' do
  moments = Effort.all? ? 20 : 1

  # The worker of these examples reaches the database by a line that can be cut.
  before do
    stop_worker(:KILL)
    @line = CutLine.new(Integer(ENV.fetch('EVREL_DB_PORT')))
    begin_worker
    sign_in
  end

  after do
    stop_worker(:KILL) if Process.wait(@worker, Process::WNOHANG).nil? # it reaches the database by this line
  rescue Errno::ECHILD
    nil # the example ended it
  ensure
    @line.close
  end

  def begin_worker
    env = { 'EVREL_DB_PORT' => @line.port.to_s }
    @worker = spawn(env, 'bundle', 'exec', RbConfig.ruby, 'app/worker.rb', 'writing', 'reading', 'drives', 'takings',
                    chdir: Config::ROOT, pgroup: true, %i[out err] => [Config.path('worker.log'), 'a'])
  end

  def stop_worker(signal)
    Process.kill(signal, -@worker)
    Timeout.timeout(20) { Process.wait(@worker) }
  end

  def wait_until(seconds = 180, &)
    Timeout.timeout(seconds) { sleep 0.05 until ActiveRecord::Base.uncached(&) }
  rescue Timeout::Error
    raise "it stands still: #{Owner.all.map(&:attributes)}, #{Delayed::Job.all.map { |job| job.attributes.except('handler') }}"
  end

  ways = {
    'TERM' => lambda {
      stop_worker(:TERM)
      begin_worker
    },
    'KILL' => lambda {
      stop_worker(:KILL)
      begin_worker
    },
    'a database that goes away' => lambda {
      @line.cut
      sleep 1.5
      @line.mend
    }
  }

  def writing
    seal_as_in_image
    slow(docket.target.serial, bytes_per_second: 60_000_000)
    call(:post, "/dockets/#{docket.id}/write")
    visit "/dockets/#{docket.id}/write"
    docket.reload.write
  end

  def trying
    TrialStart.find(call(:post, "/images/#{image.id}/trial")['id'])
  end

  def checking
    call(:post, "/images/#{image.id}/check")
    image
  end

  def looking
    shelf = image.shelf
    call(:post, "/shelves/#{shelf.id}/look")
    shelf
  end

  def taking
    seal_up_to('image')
    call(:post, "/drives/#{drive(Requests::REPLACEMENT).id}/takings", docket_id: docket.id, shelf_id: image.shelf.id)
    Taking.order(:id).last
  end

  def rehearsing
    seal_up_to('target')
    call(:post, "/dockets/#{docket.id}/layout/try")
    LayoutTry.order(:id).last
  end

  # Three at once, from one reading.
  def running
    computers = Array.new(3) { |number| Computer.create!(name: "KSK-0#{number}", firmware: 'uefi') }
    serials = Array.new(3) { |number| "LC08-2210-7A#{number}C" }
    serials.each_with_index { |serial, number| plugged(serial, (21 + number).to_s, 'capacity' => image.document.size) }
    serials.each { |serial| slow(serial, bytes_per_second: 60_000_000) }
    run = call(:post, '/runs', image_id: image.id, computer_ids: computers.map(&:id), reason: 'all alike', way: 'stays')
    blank = run['drives'].select { |drive| drive['blank'] }.map { |drive| drive['id'] }
    call(:post, "/runs/#{run['id']}/drives", blank:)
    call(:post, "/runs/#{run['id']}/start")
    Write.order(:id).last
  end

  # @param row [Write] one of a run
  def all_of_run(row)
    writes = Write.where(docket: row.docket.run.dockets).order(:id)
    wait_until { writes.reload.all? { |write| %w[queued running].exclude?(write.state) } && Owner.none? }
    expect(writes.reload).to all(have_attributes(state: 'done', verified: true))
    hosts = writes.map { |write| AttachedDrives.contents(AttachedDrives.of(write.drive)).hosts }
    expect(hosts).to eq([['KSK-00'], ['KSK-01'], ['KSK-02']])
  end

  # What each is in the end.
  kinds = {
    'a run' => [:running, ->(row) { all_of_run(row) }],
    'a write' => [:writing, ->(row) { expect(row).to have_attributes(state: 'done', verified: true) }],
    'a trial start' => [:trying, ->(row) { expect(row).to have_attributes(state: 'done', outcome: 'reached') }],
    'a check' => [:checking, ->(row) { expect(row).to have_attributes(state: 'whole', check_progress: nil) }],
    'a look through a shelf' => [:looking, ->(row) { expect(row).to have_attributes(look_state: 'idle', look_error: nil) }],
    'an image of a drive' => [:taking, ->(row) { expect(row).to have_attributes(state: 'done', error: nil) }],
    'a dry run of a layout' => [:rehearsing, ->(row) { expect(row).to have_attributes(state: 'done', error: nil) }]
  }

  # Each way at least once; a write that is killed stands in whole_way_spec.rb, where other tools judge its disk.
  usual = { 'a write' => ['a database that goes away'], 'a run' => ['KILL'], 'a check' => ['TERM'], 'a look through a shelf' => ['KILL'],
            'an image of a drive' => ['a database that goes away'] }

  kinds.each do |kind, (begun, right)|
    ways.each do |way, stop|
      next unless Effort.all? || usual.fetch(kind, []).include?(way)

      moments.times do |moment|
        it "goes on by itself: #{kind} stopped by #{way}#{", moment #{moment + 1}" if moments > 1}" do
          random = Random.new(moment)
          sign_in_by_page if kind == 'a write'
          row = send(begun)
          wait_until { Owner.exists?(work: Owner.name_of(row)) || row.class.at_work.or(row.class.waiting).where(id: row.id).none? }
          sleep random.rand(moments > 1 ? 3.0 : 0.5)
          instance_exec(&stop)
          wait_until { row.class.at_work.or(row.class.waiting).where(id: row.id).none? }
          instance_exec(row.reload, &right)
          expect(Dir[File.join(image.shelf.path, '**', '*.part-*')]).to be_empty
          wait_until(60) { Owner.none? }
          expect(Delayed::Job.where.not(failed_at: nil)).to be_empty
          expect(page).to have_text('read back from the disk itself') if kind == 'a write'
        end
      end
    end
  end

  it 'is said to stand still by a page within a few seconds, and is taken up when a worker begins' do
    sign_in_by_page
    row = writing
    expect(page).to have_css('.orders li.now', text: 'Write System', wait: 60)
    stop_worker(:KILL)
    expect(page).to have_text(/It stands still: nothing was heard of it for \d+ s/, wait: 60)
    page.refresh # what is read from the database looks as if it went on
    expect(page).to have_text(/It stands still: nothing was heard/, wait: 60)
    begin_worker
    expect(page).to have_no_text('It stands still', wait: 60)
    expect(page).to have_text('read back from the disk itself', wait: 120)
    expect(row.reload).to be_verified
  end

  it 'forgets whoever owned work that was done when the database went away' do
    Owner.create!(work: Owner.name_of(image), process: nil)
    wait_until(60) { Owner.none? }
  end

  it 'knows an image again that it had taken when the database went away' do
    stop_worker(:KILL)
    task = taking
    2.times do
      TakingJob.new(task.id).perform
      expect(task.reload).to have_attributes(state: 'done', error: nil)
      task.update!(state: 'running', image: nil)
    end
  ensure
    begin_worker
  end

  it 'is freed with its reason where it ends its process again and again' do
    stop_worker(:KILL)
    row = writing
    row.update!(state: 'running')
    row.jobs.delete_all
    Owner.create!(work: Owner.name_of(row), process: nil, taken_up: TakeUp::MOST)
    looks = TakeUp.new
    looks.check
    expect(row.reload.state).to eq('running') # a job may be on its way
    allow(looks).to receive(:now).and_return(Process.clock_gettime(Process::CLOCK_MONOTONIC) + 60)
    looks.check
    expect(row.reload).to have_attributes(state: 'failed', error: /cut off 4 times/)
    expect(Owner.none?).to be(true)
  ensure
    begin_worker
  end
end
