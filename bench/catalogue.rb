# frozen_string_literal: true

require 'English'
require 'rack/mock'
require_relative '../app/boot'

# Requests of the pages in an office that has many images, drives and dockets,
# through the whole application.
class CatalogueBench
  ASKED = { 'list' => '/api/images', 'a page in the middle' => '/api/images?from=5000',
            'list, as much as is given at once' => '/api/images?count=250', 'filter by state' => '/api/images?state=damaged',
            'filter by computer' => '/api/images?computer=7', 'search by two words' => '/api/images?q=quay-0042+season',
            'search by date' => '/api/images?q=2031-03', 'search that finds nothing' => '/api/images?q=nowhere',
            'find from the top bar' => '/api/find?q=quay-0042', 'find that finds nothing' => '/api/find?q=nowhere',
            'image station of a docket' => '/api/dockets/1/stations/image', 'dockets' => '/api/dockets?from=0&count=60',
            'dockets, as much as is given at once' => '/api/dockets?group=closed&count=250',
            'dockets: signed off, far down' => '/api/dockets?group=closed&from=4000', 'dockets: search' => '/api/dockets?q=quay-0042+slow',
            'a docket' => '/api/dockets/77', 'records' => '/api/records', 'records: search by serial' => '/api/records?q=bench-0042',
            'records: search by technician' => '/api/records?q=bo+bench&all=yes', 'writes' => '/api/writes',
            'computers' => '/api/computers',
            'history of a drive' => '/api/drives/42/history', 'history of a computer' => '/api/computers/42/history',
            'shelves' => '/api/shelves' }.freeze
  DRIVES = 2000
  DOCKETS = 5000
  SIGHTINGS = 12_000

  def initialize(count, runs)
    @count = count
    @runs = runs
  end

  # @return [Hash{String=>Hash}] milliseconds of each request
  def run
    Process.wait(fork { fill }) # what making it takes is no part of what is measured
    raise 'the office was not made' unless $CHILD_STATUS.success?

    ActiveRecord::Base.establish_connection(Config.database)
    client = Rack::MockRequest.new(Api::Stack.build)
    cookie = sign_in(client)
    ASKED.to_h do |name, path|
      times = Array.new(@runs + 1) { milliseconds { raise path unless client.get(path, cookie).ok? } }
      ["catalogue of #{@count}: #{name}", { milliseconds: times.drop(1).sort[@runs / 2].round(1) }]
    end.merge('the application, after all of these' => { mebibytes: File.read('/proc/self/status')[/^VmRSS:\s+(\d+)/, 1].to_i / 1024 })
  end

  private

  def fill
    ActiveRecord::Migration.verbose = false
    ActiveRecord::MigrationContext.new(File.join(Config::ROOT, 'db', 'migrate')).migrate
    technician = Technician.create!(sign_in: 'bench', name: 'Bo Bench', initials: 'BB', password: 'bench')
    computers = Array.new(200) do |index|
      Computer.create!(name: format('QUAY-%04d', index), firmware: 'uefi', model: "Desk #{index % 9}", system_identity: "id-#{index}")
    end
    shelf = Shelf.create!(name: 'Share', kind: 'folder', path: Config.var)
    rows = Array.new(@count) { |index| row(index, shelf, computers[index % computers.size]) }
    rows.each_slice(1000) { |slice| Image.insert_all!(slice) }
    Docket.create!(computer: computers[42], cause: 'infected', trouble_since: Time.now - 86_400, opened_by: technician)
    drives
    dockets(technician, computers)
  end

  def drives
    many(Drive, DRIVES) do |index|
      serial = format('BENCH-%04d', index)
      { serial:, identity_key: serial, maker: 'Velm', model: "NV#{index % 9}", bus: 'SATA', capacity: 480_103_981_056,
        last_bench: Config.bench, last_port: '1' }
    end
    many(DriveSighting, SIGHTINGS) do |index|
      { drive_id: (index % DRIVES) + 1, bench: Config.bench, port: '1', seen_from: Time.now - (index * 60),
        seen_until: Time.now - (index * 60) }
    end
  end

  # All but the last fifty are signed off, each with a write and seals as large as they are.
  def dockets(technician, computers)
    rows_of_dockets(technician, computers)
    seals(technician)
    writes(technician)
  end

  def rows_of_dockets(technician, computers)
    many(Docket, DOCKETS) do |index|
      computer = computers[index % computers.size]
      closed = Time.now - ((DOCKETS - index) * 3600) if index < DOCKETS - 50
      { computer_id: computer.id, cause: Docket::CAUSES.keys[index % 6], opened_by_id: technician.id, closed_at: closed,
        words: "#{format('d-%04d', index + 2)} #{computer.name} slow it hangs bo bench".downcase,
        created_at: Time.now - ((DOCKETS - index) * 3700) }
    end
  end

  def seals(technician)
    evidence = { facts: Array.new(20) { |at| { id: at, state: 'ok', title: 'A fact', detail: 'of some length ' * 4 } } }
    many(Seal, DOCKETS * 6) do |index|
      { docket_id: (index / 6) + 2, technician_id: technician.id, station: Docket::STATIONS[index % 6], summary: 'sealed', evidence:,
        decision: { source: { kind: 'image', id: (index % @count) + 1 }, drive_id: (index % DRIVES) + 1 }, created_at: Time.now - 1000 }
    end
  end

  def writes(technician)
    layouts = Seal.where(station: 'layout').pluck(:docket_id, :id).to_h
    many(Write, DOCKETS) do |index|
      { docket_id: index + 2, technician_id: technician.id, source_type: 'Image', source_id: (index % @count) + 1, bench: Config.bench,
        drive_id: (index % DRIVES) + 1, state: 'done', verified: true, progress: { to_write: 1, written: 1 }, speeds: Array.new(400, 1),
        orders: [], outcomes: [], seal_id: layouts[index + 2],
        created_at: Time.now - 900, finished_at: Time.now - 90_000 }
    end
  end

  def many(kind, count, &row)
    count.times.each_slice(1000) { |numbers| kind.insert_all!(numbers.map(&row)) }
  end

  def row(index, shelf, computer)
    taken_at = Time.new(2031, 1, 1) + (index * 7200)
    note = index.odd? ? 'Before the season' : 'Nightly'
    { shelf_id: shelf.id, computer_id: computer.id, uid: SecureRandom.uuid, path: "share/#{index}", taken_at:,
      used_bytes: 60_000_000_000, size_bytes: 240_000_000_000, needed_bytes: 240_000_000_000, model: computer.model,
      manifest: document(index, taken_at, computer, note), state: %w[whole whole unchecked damaged][index % 4],
      checked_at: taken_at, format: 'evrel-image', host: computer.name,
      system_identity: computer.system_identity, words: "#{computer.name} #{note} #{taken_at.strftime('%F %B')} share/#{index}".downcase,
      check_result: (index % 4 == 3 ? { damaged: 1, places: [], files: [], notes: [], hit: [] } : nil) }
  end

  def document(index, taken_at, computer, note)
    parts = %w[startup system recovery].each_with_index.map do |role, at|
      { 'number' => at + 1, 'role' => role, 'name' => role, 'start_bytes' => at * 80_000_000_000, 'size_bytes' => 79_000_000_000,
        'type' => 'x', 'volume' => { 'kind' => 'ext4', 'label' => role, 'uuid' => index.to_s, 'size_bytes' => 1, 'block_size' => 4096,
                                     'used_bytes' => 1 } }
    end
    { 'taken_at' => taken_at.iso8601, 'computer' => { 'name' => computer.name, 'system_identity' => computer.system_identity },
      'drive' => {}, 'note' => note, 'used_bytes' => 60_000_000_000, 'systems' => [],
      'disk' => { 'size_bytes' => 240_000_000_000, 'logical_sector' => 512, 'clusters' => 900_000 },
      'table' => { 'kind' => 'gpt', 'guid' => computer.id.to_s, 'partitions' => parts, 'findings' => [] } }
  end

  def sign_in(client)
    first = client.get('/api/session', 'HTTP_HOST' => '127.0.0.1')
    answer = client.post('/api/session', 'HTTP_HOST' => '127.0.0.1', 'HTTP_COOKIE' => cookie_of(first),
                                         'CONTENT_TYPE' => 'application/json', 'HTTP_X_CSRF_TOKEN' => JSON.parse(first.body)['token'],
                                         input: JSON.generate(sign_in: 'bench', password: 'bench'))
    { 'HTTP_HOST' => '127.0.0.1', 'HTTP_COOKIE' => cookie_of(answer) }
  end

  def cookie_of(answer) = answer.headers['set-cookie'].to_s.split(';').first

  def milliseconds
    start = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    yield
    (Process.clock_gettime(Process::CLOCK_MONOTONIC) - start) * 1000
  end
end
