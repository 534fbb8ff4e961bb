# frozen_string_literal: true

require_relative 'app_helper'

# Whatever comes in, what goes out is described: a seeded walk over all calls of
# docs/openapi.yaml, with strange and with sensible values. EVREL_EFFORT=all
# walks much farther.
RSpec.describe 'Strange calls' do
  calls = Effort.all? ? 50_000 : 800
  values = [nil, true, 0, -1, 1, 2**63, 2**70, 1.5, 1e300, '', 'x', 'x' * 300, 'ø' * 260, 'x' * 5000, "a\u0000b", "\u202Eabc", [], [[]], {},
            { 'a' => { 'b' => [] } }, '<b>', "'; DROP TABLE dockets", '../../../etc/passwd', '/', '2026-13-45', '2026-11-27', 'yes'].freeze
  ids = %w[0 -1 abc 1e5 99999999999999999999 %00 %ff %c3%28 % %zz .. 1;2 1%2F2 %D9%A1 1.0 +1].freeze
  bodies = ['', '{', '[]', 'null', '"x"', "\xFF\xFE", '{"a":' * 60, '{"wish":"\ud800"}', "{\"note\":\"#{'x' * 70_000}\"}"].freeze
  queries = ['q[]=1', 'q[a][b]=1', 'q=%ff', 'q=%', 'from=-1', 'from=1e9', "from=#{'9' * 30}", 'path=%00', 'path[]=a&path=b',
             "q=#{'x' * 3000}", 'state=whole&state=x', '&&&=;', 'page[][][a]=1'].freeze

  let(:operations) { YAML.load_file(Api::Described::FILE)['paths'].flat_map { |path, found| found.map { |method, one| [method, path, one] } } }
  let(:schema) { Committee::Drivers.load_from_file(Api::Described::FILE, parser_options: { strict_reference_validation: true }) }

  # Who asks; what is done to people is done to others.
  def who = Technician.find_by!(sign_in: 'kaja')

  # A known id as often as not.
  def known(name, path)
    kinds = { 'dockets' => Docket, 'images' => Image, 'shelves' => Shelf, 'drives' => Drive, 'trials' => TrialStart,
              'tasks' => DriveTask, 'takings' => Taking, 'computers' => Computer,
              'layout-tries' => LayoutTry, 'layout-presets' => LayoutPreset,
              'people' => Technician.where.not(sign_in: 'kaja'), 'me' => SignIn.where.not(technician_id: who.id) }
    return Docket::STATIONS.sample(random: @random) if name == 'station'
    return @random.rand(1..3).to_s if %w[part port].include?(name)

    kinds[path.split('/')[1]]&.pluck(:id)&.sample(random: @random).to_s.then { |id| id.empty? ? '1' : id }
  end

  define_method(:address) do |path|
    path.gsub(/\{(\w+)\}/) { @random.rand < 0.7 ? known(Regexp.last_match(1), path) : ids.sample(random: @random) }
  end

  # Of the type that is described, or of none.
  define_method(:value) do |described|
    next values.sample(random: @random) if @random.rand < 0.4

    case described['type']
    when 'integer' then [1, 2, 3, 7].sample(random: @random)
    when 'boolean' then true
    when 'array' then [value(described['items'] || {})]
    when 'object' then described.fetch('properties', {}).transform_values { |one| value(one) }
    else described['enum']&.sample(random: @random) || %w[a 7Q4F yes as_in_image 2026-11-27].sample(random: @random)
    end
  end

  define_method(:sent) do |operation|
    next bodies.sample(random: @random) if @random.rand < 0.1

    described = operation.dig('requestBody', 'content', 'application/json', 'schema')
    next '' unless described

    JSON.generate(described.fetch('properties', {}).select { @random.rand < 0.8 }.transform_values { |one| value(one) })
  rescue JSON::GeneratorError
    '{'
  end

  define_method(:asked) do |operation|
    next queries.sample(random: @random) if @random.rand < 0.15

    operation['parameters'].to_a.select { |one| one['in'] == 'query' && @random.rand < 0.7 }
                           .map { |one| "#{one['name']}=#{CGI.escape(value(one['schema']).to_s)}" }.join('&')
  end

  def strange(method, path, query, body)
    env = Rack::MockRequest.env_for(
      '/api', method: method.upcase, input: body, 'HTTP_HOST' => '127.0.0.1', 'HTTP_COOKIE' => @cookie, 'HTTP_X_CSRF_TOKEN' => @token,
              'CONTENT_TYPE' => 'application/json', 'rack.errors' => StringIO.new
    )
    before = Process.clock_gettime(Process::CLOCK_THREAD_CPUTIME_ID)
    env.merge!('PATH_INFO' => "/api#{path}", 'QUERY_STRING' => query)
    status, headers, answer = Requests::STACK.call(env)
    error = env['sinatra.error']
    @why = error && "#{error.class}: #{error.message[0, 200]} at #{error.backtrace.grep(%r{/(app|lib)/}).first}"
    text = +''
    answer.each { |piece| text << piece }
    answer.close if answer.respond_to?(:close)
    [status, headers, text, Process.clock_gettime(Process::CLOCK_THREAD_CPUTIME_ID) - before]
  end

  # What is written down though it was refused or only read: a wrong label, and what somebody saw or took of an image.
  noted = %w[label_wrong file_shown files_taken]

  # Of all tables and files; that somebody is there is noted in any case.
  define_method(:everything) do
    tables = DemoState::TABLES - %w[events sign_ins]
    sums = ActiveRecord::Base.connection.select_rows("CHECKSUM TABLE #{tables.join(', ')}")
    files = Dir.glob(DemoState::FOLDERS.map { |name| Config.path(name, '**', '*') }).map do |one|
      stat = File.stat(one)
      [one, stat.size, stat.directory? ? nil : stat.mtime]
    end
    [sums, Event.where.not(kind: noted).count, files]
  end

  # A paper with its fonts takes a moment longer.
  def longest(path) = path.end_with?('.pdf') ? 4 : 1

  define_method(:fault) do |method, path, status, headers, text, seconds|
    next format('it took %.1f s', seconds) if seconds > longest(path)
    next "an answer #{status}" if status >= 500
    next if status < 400 && !headers['content-type'].to_s.start_with?('application/json')

    said = JSON.parse(text)
    next 'an error of another shape' if status >= 400 && !(said['error'].is_a?(String) && said['message'].is_a?(String))

    operation = @calls.request_operation(method, path)
    answer = OpenAPIParser::RequestOperation::ValidatableResponseBody.new(status, said, headers)
    operation&.validate_response_body(answer, OpenAPIParser::SchemaValidator::ResponseValidateOptions.new(strict: true))
    nil
  rescue JSON::ParserError, OpenAPIParser::OpenAPIError => e
    "not as described: #{e.message[0, 200]}"
  end

  # Of every second quarter of a thousand the docket is ready to be written.
  def begin_anew(number)
    DemoState.reset
    enter
    seal_as_in_image if number.odd?
    @kept = nil
  end

  def enter
    who.update!(role: 'lead')
    sign_in('kaja')
    call(:get, '/session')
    @cookie = last_request.env['HTTP_COOKIE']
  end

  it "#{calls} of them are answered as described, and change nothing where they are refused, or only read" do
    @random = Random.new(4711)
    @calls = OpenAPIParser.parse(YAML.load_file(Api::Described::FILE), { strict_reference_validation: true })
    enter
    wrong = []
    answered = Hash.new(0)
    calls.times do |number|
      begin_anew(number / 250) if number.positive? && (number % 250).zero?
      method, path, operation = operations.sample(random: @random)
      next if path.start_with?('/session') || path == '/me/password' # it would end this one

      call = [method, address(path), asked(operation), sent(operation)]
      before = @kept || everything
      status, headers, text, seconds = strange(*call)
      answered[status] += 1
      found = fault(call[0], path.gsub(/\{\w+\}/, '1'), status, headers, text, seconds)
      wrong << "#{call.map { |one| one.to_s[0, 160] }.inspect}: #{found}; #{@why || text[0, 200]}" if found
      @kept = nil
      next if status < 400 && method != 'get'

      @kept = everything
      wrong << "#{call.inspect[0, 300]}: #{status}, but something has changed" unless @kept == before
    end
    puts "      #{answered.sort.map { |status, count| "#{status}: #{count}" }.join(', ')}"
    expect(wrong).to be_empty, "#{wrong.size} wrong, among them\n#{wrong.first(30).join("\n")}"
  end

  it 'are refused in one shape where the token or the name of the host is wrong' do
    enter
    @token = 'another'
    status, _, text = strange('post', '/layout-presets', '', '{"name":"Office","wish":{}}')
    expect(status).to eq(403)
    expect(JSON.parse(text)).to include('error' => 'Refused', 'message' => /load it again/)
  end
end
