# frozen_string_literal: true

abort 'These specs need a database of their own: run bin/test, or bin/test spec/app.' unless ENV['EVREL_VAR'] && ENV['EVREL_DB_NAME']

ENV['RACK_ENV'] = 'test'
require_relative '../../app/boot'
require_relative '../../demo/scenario'
require_relative 'kept_folder'
require 'committee'
require 'rack/test'

# Each example signs in.
ActiveModel::SecurePassword.min_cost = true
# As the web server and the workers do.
LOAD_ALL.call(api: true)
LOAD_TABLES.call

# Who may do with the tables what the application may not.
class TableOwner < ActiveRecord::Base
  self.abstract_class = true
  establish_connection(Config.owner)
end

# The demo in small, built once and put back for every example.
module DemoState
  FOLDERS = %w[bench journals pictures secrets kept scratch tries].freeze
  TABLES = %w[technicians computers runs dockets drives shelves shelf_files images image_files seals writes start_checks trial_starts events
              delayed_jobs drive_sightings drive_tasks unplug_checks layout_presets layout_tries trial_inputs mends ticks owners
              answers bench_states sign_ins sign_in_failures proofs night_windows computer_photos presences takings image_tasks
              drive_sources].freeze

  module_function

  # Several processes of one run build it once.
  HOLDS = 2 * 3600 # seconds: its story is told from the time at which it was built

  def reset
    @built ||= built? || build
    (FOLDERS - ['bench']).each { |name| FileUtils.rm_rf(Config.path(name)) }
    @bench ||= KeptFolder.new(Config.path('kept-bench'), Config.path('bench'))
    @bench.put_back # with the times that its files had: what was read of a drive still holds
    refill { |table| columns(table).then { |names| "INSERT INTO #{table} (#{names}) SELECT #{names} FROM kept_#{table}" } }
    # Numbers of events only ever grow, here as in life: open pages go by them.
    sql("ALTER TABLE events AUTO_INCREMENT = #{@next_event = @next_event.to_i + 10_000}")
    FileUtils.cp(Config.path('kept-event-key'), Config.path(EventKey::FILE), preserve: true)
    hurry
  end

  # Nobody watches: the port need not be as slow as in the demo.
  def hurry
    about = Config.path('bench', 'drives', Requests::REPLACEMENT, 'drive.json')
    File.write(about, File.read(about).sub(/"bytes_per_second": \d+/, '"bytes_per_second": 2000000000'))
  end

  def build
    FOLDERS.each { |name| FileUtils.rm_rf(Config.path(name)) }
    FileUtils.rm_f(Config.path(EventKey::FILE)) # it counts from the last event that was there before it
    without_keys { TABLES.each { |table| sql("TRUNCATE #{table}") } } # numbers begin anew
    Demo::Scenario.new(small: true).build
    FileUtils.rm_rf(Config.path('kept-bench'))
    FileUtils.cp(Config.path(EventKey::FILE), Config.path('kept-event-key'), preserve: true)
    system('cp', '-r', '--sparse=always', Config.path('bench'), Config.path('kept-bench'), exception: true)
    TABLES.each do |table|
      sql("CREATE OR REPLACE TABLE kept_#{table} AS SELECT * FROM #{table}")
    end
    File.write(Config.path('kept-demo.json'), JSON.generate(at: Time.now.to_i, by: made_by))
    true
  end

  # @return [Boolean] whether it is still there, as it would be built now
  def built?
    told = JSON.parse(File.read(Config.path('kept-demo.json')))
    told['by'] == made_by && Time.now.to_i - told['at'] < HOLDS && Dir.exist?(Config.path('kept-bench')) && kept_tables? &&
      File.exist?(Config.path('kept-event-key'))
  rescue Errno::ENOENT, JSON::ParserError
    false
  end

  def kept_tables?
    @next_event = ActiveRecord::Base.connection.select_value('SELECT MAX(id) FROM events').to_i
    (TABLES.map { |table| "kept_#{table}" } - TableOwner.connection.tables).empty?
  end

  def made_by
    sources = %w[demo/**/* spec/app/app_helper.rb app/models/**/* db/migrate/* stand_ins/**/* lib/evrel/{image,volume,table}/**/*]
    OpenSSL::Digest::SHA256.hexdigest(sources.flat_map { |one| Dir[File.join(Config::ROOT, one)] }.sort.select { |path| File.file?(path) }
                                    .map { |path| File.read(path) }.join)
  end

  # Those that the database does not work out itself.
  def columns(table)
    @columns ||= {}
    @columns[table] ||= ActiveRecord::Base.connection.columns(table).reject(&:virtual?).map { |one| "`#{one.name}`" }.join(', ')
  end

  def refill
    # Row by row is much faster than TRUNCATE, which makes a table anew; but events are only ever added.
    without_keys do
      sql('TRUNCATE events')
      TableOwner.transaction do
        TABLES.each do |table|
          sql("DELETE FROM #{table}") unless table == 'events'
          sql(yield(table))
        end
      end
    end
  end

  def without_keys
    sql('SET FOREIGN_KEY_CHECKS = 0')
    yield
  ensure
    sql('SET FOREIGN_KEY_CHECKS = 1')
  end

  def sql(text) = TableOwner.connection.execute(text)
end

# Requests as a signed-in page makes them, each held against docs/openapi.yaml.
module Requests
  include Rack::Test::Methods
  include Committee::Test::Methods

  STACK = Api::Stack.build

  def app = STACK

  def committee_options
    @committee_options ||= { schema_path: File.expand_path('../../docs/openapi.yaml', __dir__), prefix: '/api',
                             parse_response_by_content_type: true, strict_reference_validation: true }
  end

  def request_object = last_request
  def response_data = [last_response.status, last_response.headers.to_h, last_response.body]

  def sign_in(as = 'ina', password: Demo.password)
    call(:get, '/session')
    call(:post, '/session', sign_in: as, password:)
  end

  # @return [Hash, Array] the answer, after it was held against its schema
  # What a worker notes in the background is noted before, in this process.
  def call(method, path, **body)
    (@watch ||= BenchWatch.new).round
    header 'Content-Type', 'application/json'
    header 'X-CSRF-Token', @token.to_s
    header 'Host', '127.0.0.1'
    send(method, "/api#{path}", method == :get ? nil : JSON.generate(body))
    last_request.body&.rewind # the application has read it; the schema is held against it too
    assert_schema_conform(last_response.status)
    answer = JSON.parse(last_response.body)
    @token = answer['token'] if answer.is_a?(Hash) && answer.key?('token')
    answer
  end

  def status = last_response.status

  # The worker, in this process, until there is nothing to do.
  def work_off
    worker = Delayed::Worker.new(queues: [Config.bench, Config.reading, Config.drives, Config.takings], quiet: true)
    worker.work_off(20)
    failed = Delayed::Job.where.not(failed_at: nil).pluck(:last_error)
    raise "a job failed: #{failed.first.lines.first(6).join}" if failed.any?
  end

  def docket = Docket.find_by!(cause: 'drive_failed')
  def image = Image.order(:taken_at).last
  def image_path = File.join(image.shelf.path, image.path)
  def drive(serial) = Drive.find_by!(serial:)
  def bench = Benches[Config.bench]
  def station(name) = call(:get, "/dockets/#{docket.id}/stations/#{name}")
  def seal(name, **body) = call(:post, "/dockets/#{docket.id}/stations/#{name}/seal", **body)

  # A new stand-in drive, plugged in.
  # @return [String] path of its contents
  def plugged(serial, port, name: serial, **about)
    path = bench.make({ 'serial' => serial, 'wwn' => "w-#{name}", 'maker' => 'Velm', 'model' => 'NV1', 'capacity' => 480_103_981_056,
                        'bus' => 'SATA', 'rotating' => false, 'logical_sector' => 512, 'physical_sector' => 4096, **about },
                      smart: StandIns::Smart.ata(hours: 1, temperature: 30, wear: 0), name:)
    bench.plug(name, port)
    path
  end

  REPLACEMENT = 'TF48-2209-7Q4F'

  # All four, without growing a part: that takes its time.
  def seal_as_in_image
    seal_up_to('target')
    call(:post, "/dockets/#{docket.id}/layout/plan", wish: { way: 'as_in_image' })
    seal('layout')
  end

  # Seals the stations in order, up to and including +last+.
  def seal_up_to(last, label: '7Q4F')
    Docket::STATIONS.each do |name|
      case name
      when 'image'
        image.update!(state: 'whole', checked_at: Time.now)
        seal('image', image_id: image.id)
      when 'target' then seal('target', drive_id: drive(REPLACEMENT).id, label:, reason: 'old stock, no longer needed')
      else seal(name)
      end
      raise "#{name} was not sealed: #{last_response.body}" unless status == 200
      break if name == last
    end
  end
end

RSpec.configure do |config|
  config.include Requests, type: :app
  config.define_derived_metadata(file_path: %r{/spec/(security/)?app/}) { |metadata| metadata[:type] = :app }
  config.before(:each, type: :app) do
    DemoState.reset
  end
end
