# frozen_string_literal: true

require_relative 'app_helper'
require_relative 'desk'

# Two colleagues, each with a session of their own, do something at the same
# moment: one after the other comes of it, or a clear refusal of the second.
RSpec.describe 'Two at once' do
  rounds = Effort.all? ? 50 : 1
  def desks = @desks ||= [Desk.new('ina'), Desk.new('kaja')]

  # @param calls [Array<Array>] method, path and body for each of the two
  # @return [Array<(Integer, Hash)>] what each was answered
  def at_once(*calls)
    random = Random.new(@round)
    gate = Queue.new
    threads = calls.zip(desks).map do |(method, path, body), desk|
      delay = random.rand(0.004)
      Thread.new do
        gate.pop
        sleep delay
        desk.call(method, path, **body.to_h)
      end
    end
    calls.size.times { gate << true }
    threads.map(&:value)
  end

  def doubled(table, column)
    twice = "SELECT #{column} FROM #{table} WHERE #{column} IS NOT NULL GROUP BY #{column} HAVING COUNT(*) > 1"
    ActiveRecord::Base.connection.select_values(twice)
  end

  # Drive, its lock, and the seal that has it.
  def agree
    Drive.find_each do |one|
      sealed = Docket.where(closed_at: nil).select { |docket| docket.target == one }.map(&:number)
      expect(sealed).to eq([one.docket&.number].compact), "#{one.serial} serves #{one.docket&.number.inspect}, sealed by #{sealed}"
      expect(bench.lock_on(AttachedDrives.of(one))).to eq(one.docket&.number) if AttachedDrives.of(one)
    end
  end

  # Whatever waits or runs has one job, and no more.
  def jobs_fit
    [Write, TrialStart, LayoutTry, DriveTask, Taking].each do |kind|
      kind.waiting.each { |row| expect(row.jobs.count).to eq(1), "#{row.class} #{row.id} has #{row.jobs.count} jobs" }
    end
    expect(Delayed::Job.count).to eq([Write, TrialStart, LayoutTry, DriveTask, Taking].sum { |kind| kind.waiting.count } +
                                     Shelf.where(look_state: 'queued').count + Image.where(state: 'checking').count)
  end

  def sound(answers, done)
    expect(answers.map(&:first)).to all(be_between(200, 299).or(eq(409)).or(eq(422))), answers.inspect
    expect(answers.count { |status, _| status < 300 }).to be_between(*[done].flatten.minmax), answers.inspect
    refused = answers.find { |status, _| status >= 400 }
    expect(refused.last['message'].to_s.length).to be > 12 if refused
    keys = { seals: :open_key, writes: :living_drive_id, drive_tasks: :open_drive_id, ticks: "CONCAT(docket_id, '/', item)" }
    keys.each { |table, column| expect(doubled(table, column)).to be_empty }
    agree
    jobs_fit
  end

  def path(rest) = "/dockets/#{docket.id}/#{rest}"
  def target_seal(**more) = { drive_id: drive(Requests::REPLACEMENT).id, label: '7Q4F', reason: 'old stock', **more }
  def twice(*call) = [call, call]
  def seal_of(station, **body) = [:post, path("stations/#{station}/seal"), body]
  def clean = [:post, "/drives/#{drive(Requests::REPLACEMENT).id}/clean", { how: 'signatures', label: '7Q4F', reason: 'old stock' }]

  # A second docket that is ready for its target.
  def second
    made = Docket.create!(computer: docket.computer, cause: 'slow', opened_by: Technician.first)
    call(:post, "/dockets/#{made.id}/stations/computer/seal")
    call(:post, "/dockets/#{made.id}/stations/image/seal", image_id: image.id)
    made
  end

  def written
    seal_as_in_image
    write = docket.writes.create!(technician: Technician.first, source: image, drive: docket.target, seal: docket.seal('layout'),
                                  state: 'done', verified: true, progress: { to_write: 1 }, speeds: [], outcomes: [], decisions: [],
                                  started_at: 1.minute.ago, finished_at: Time.now)
    Stations::WriteStation.new(docket).seal_verified(write)
  end

  # Name → what is done before, the two calls, and how many of the two succeed.
  pairs = {
    'seal the same station, from a page that has seen no seal' => [-> {}, -> { twice(*seal_of('computer', seen: nil)) }, 1],
    'seal the same station, asked without a page' => [-> {}, -> { twice(*seal_of('computer')) }, 2],
    'seal an image' =>
      [-> { seal_up_to('computer') }, -> { twice(*seal_of('image', image_id: image.id, seen: nil, reason: 'it is new')) }, 1],
    'seal a target' => [-> { seal_up_to('image') }, -> { twice(*seal_of('target', **target_seal, seen: nil)) }, 1],
    'seal a layout' => [-> { seal_up_to('target') }, -> { twice(*seal_of('layout', seen: nil)) }, 1],
    'seal the same drive for two dockets' =>
      [-> { seal_up_to('image').then { @second = second } },
       -> { [seal_of('target', **target_seal), [:post, "/dockets/#{@second.id}/stations/target/seal", target_seal]] }, 1],
    'start the same write' => [-> { seal_as_in_image }, -> { twice(:post, path('write')) }, 1],
    'start the write and open the layout' =>
      [-> { seal_as_in_image }, -> { [[:post, path('write')], [:delete, path('stations/layout/seal')]] }, 1],
    'start the write and open the target' =>
      [-> { seal_as_in_image }, -> { [[:post, path('write')], [:delete, path('stations/target/seal')]] }, 1],
    'open the same seal' =>
      [-> { seal_up_to('target') }, -> { twice(:delete, path('stations/target/seal'), { seen: docket.seal('target').id }) }, 1],
    'clean the same drive' => [-> {}, -> { twice(*clean) }, 1],
    'clean a drive and seal it as a target' => [-> { seal_up_to('image') }, -> { [seal_of('target', **target_seal), clean] }, 1],
    'count what would be lost' =>
      [-> { seal_up_to('image') }, -> { twice(:post, path('count'), { drive_id: drive(Requests::REPLACEMENT).id }) }, 2],
    'try a layout' => [-> { seal_up_to('target') }, -> { twice(:post, path('layout/try')) }, 2],
    'try a start of an image' => [-> {}, -> { twice(:post, path('trial'), { image_id: image.id }) }, 2],
    'try a start of the written disk' => [-> { written }, -> { twice(:post, path('trial')) }, 2],
    'look through a shelf' => [-> {}, -> { twice(:post, "/shelves/#{image.shelf_id}/look") }, 2],
    'check an image' => [-> {}, -> { twice(:post, "/images/#{image.id}/check") }, [1, 2]],
    'add the same shelf' =>
      [-> { FileUtils.mkdir_p(file('shelf')) && Technician.update_all(role: 'lead') },
       -> { twice(:post, '/shelves', { kind: 'folder', name: 'Attic', path: file('shelf') }) }, 1],
    'sign the docket off' =>
      [-> { written }, -> { twice(*seal_of('start', outcome: 'starts', reason: 'on its own screen', seen: nil)) }, 1],
    'sign the docket off and begin a trial start' =>
      [-> { written }, -> { [seal_of('start', outcome: 'starts', reason: 'on its own screen'), [:post, path('trial')]] }, [1, 2]],
    'ask for an image of the same drive' =>
      [-> { seal_up_to('image') },
       -> { twice(:post, "/drives/#{drive(Requests::REPLACEMENT).id}/takings", { docket_id: docket.id, shelf_id: image.shelf_id }) }, 1],
    'tick the same item' => [-> { written }, -> { twice(:put, path('checklist/fresh'), { done: true, note: 'for Monday' }) }, 2],
    'name the same preset' =>
      [-> {}, -> { twice(:post, '/layout-presets', { name: 'Office', wish: { way: 'as_in_image' } }) }, [1, 2]],
    'prove the same drive by unplugging it' =>
      [-> { seal_up_to('image') }, -> { twice(:post, path('unplug-check'), { drive_id: drive(Requests::REPLACEMENT).id }) }, [1, 2]],
    'hand the docket over' => [-> {}, -> { Technician.limit(2).map { |one| [:post, path('hand-over'), { technician_id: one.id }] } }, 2]
  }

  pairs.each do |what, (before, calls, done)|
    it "#{what}#{", #{rounds} times" if rounds > 1}" do
      rounds.times do |round|
        @round = round
        DemoState.reset unless round.zero?
        sign_in
        @desks = nil
        instance_exec(&before)
        sound(at_once(*instance_exec(&calls)), done)
      end
    end
  end

  it 'tells the second what the first did' do
    desks
    calls = Array.new(2) { [:post, path('stations/computer/seal'), { seen: nil }] }
    @round = 1
    refused = at_once(*calls).find { |status, _| status == 409 }.last
    expect(refused['message']).to match(/\A\w\. \w+ sealed Computer at \d\d:\d\d:\d\d: UEFI/)
  end

  it 'carries out once what comes twice under one key, at the same moment and later' do
    sign_in
    seal_as_in_image
    key = { 'HTTP_IDEMPOTENCY_KEY' => 'press-4711-0815' }
    ina = desks.first
    first = Thread.new { ina.call(:post, path('write'), headers: key) }.value
    again = ina.call(:post, path('write'), headers: key)
    expect(again).to eq(first)
    expect([Write.count, Delayed::Job.count, Answer.count]).to eq([1, 1, 1])
    expect(ina.call(:post, path('write/stop'), headers: key)).to match([409, include('message' => /another call/)])
    expect(ina.call(:post, path('write'), headers: { 'HTTP_IDEMPOTENCY_KEY' => 'x' }).first).to eq(400)
    # Of a colleague it is another key.
    of_a_colleague = desks.last.call(:post, path('write'), headers: key)
    expect(of_a_colleague).to match([409, include('message' => /a write is running: I\. Hauge began it/)])
  end

  it 'is tried again where two wait for each other' do
    desks
    tries = 0
    allow(Event).to receive(:add).and_wrap_original do |add, *given, **more|
      raise ActiveRecord::Deadlocked, 'two wait for each other' if (tries += 1) < 3

      add.call(*given, **more)
    end
    expect(desks.first.call(:post, path('stations/computer/seal')).first).to eq(200)
    expect(Seal.count { |seal| seal.broken_at.nil? && seal.docket_id == docket.id }).to eq(1)
  end

  # @yieldparam number [Integer] of six threads that begin at the same moment
  def six_at_once(&work)
    gate = Queue.new
    threads = Array.new(6) do |number|
      Thread.new do
        ActiveRecord::Base.connection_pool.with_connection do
          gate.pop
          work.call(number)
        end
      end
    end
    threads.size.times { gate << true }
    threads.each { |thread| thread.report_on_exception = false }.each(&:value)
  end

  it 'owns different work that is begun at the same moment, without waiting for each other' do
    done = Queue.new
    six_at_once { |number| 20.times { |at| Owner.of(Write.new(id: 1_000_000 + (at * 10) + number)) { done << [number, at] } } }
    expect(done.size).to eq(120)
  end

  it 'takes up once what was cut off, though all workers begin at the same moment' do
    Image.update_all(state: 'checking')
    gone = Workplace.name.sub(/\d+ \d+\z/, '1 1')
    Image.find_each { |image| Owner.create!(work: Owner.name_of(image), process: gone) }
    six_at_once { TakeUp.new.check }
    expect(Owner.pluck(:taken_up)).to eq([1] * Image.count)
    expect([Delayed::Job.pluck(:work).uniq.size, Delayed::Job.count, Event.where(kind: 'work_taken_up').count]).to eq([Image.count] * 3)
  end

  it 'gives what nothing will ever do one job, though all workers find it at the same moment' do
    Image.update_all(state: 'checking')
    Shelf.update_all(look_state: 'queued')
    looks = Array.new(6) { TakeUp.new }
    looks.each(&:check)
    allow_any_instance_of(TakeUp).to receive(:now).and_return(Process.clock_gettime(Process::CLOCK_MONOTONIC) + 60)
    six_at_once { looks.pop.check }
    expect(Owner.pluck(:taken_up)).to eq([1] * Image.count)
    expect([Delayed::Job.pluck(:work).uniq.size, Delayed::Job.count]).to eq([Image.count + Shelf.count] * 2)
  end
end
