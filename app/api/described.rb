# frozen_string_literal: true

require 'json'
require 'openapi_parser'
require 'stringio'
require 'yaml'

module Api
  # Holds every call against docs/openapi.yaml before any other code sees it:
  # whether there is such a call, and type, length and range of all that comes
  # with it, and who it is for. Errors leave in one shape, whoever found them.
  class Described
    FILE = File.join(Config::ROOT, 'docs', 'openapi.yaml')
    LARGEST = 64 * 1024 # bytes of a body, but for a call that is described with another number
    LARGEST_BODY = 'x-largest-body'
    LARGEST_OF_ALL = 3 * 1024 * 1024
    DEEPEST = 20        # levels of its JSON
    # Who a call is for: anybody, or one of Technician::ROLES and those after it.
    RIGHT = 'x-right'
    ANYBODY = 'anybody'
    JSON_TYPE = 'application/json'

    # @param status [Integer]
    # @param message [String]
    # @param where [String, nil]
    Wrong = Class.new(StandardError) do
      attr_reader :status, :where

      def initialize(status, message, where = nil)
        super(message)
        @status = status
        @where = where
      end
    end

    # @param app [#call]
    def initialize(app)
      @app = app
      @calls = OpenAPIParser.parse(YAML.load_file(FILE), { strict_reference_validation: true, coerce_value: true })
    end

    def call(env)
      check(env)
      in_one_shape(@app.call(env))
    rescue Wrong => e
      said(e.status, e.message, e.where)
    end

    private

    def check(env)
      path = text!(env['PATH_INFO'].to_s, 'the address')
      query = query(env['QUERY_STRING'].to_s)
      method = env['REQUEST_METHOD'].downcase.sub('head', 'get')
      found = @calls.request_operation(method, path)
      allow(env[Signed::KEY]&.technician, found && found.operation_object.raw_schema.fetch(RIGHT))
      raise Wrong.new(404, 'there is nothing under this address') unless found

      env['evrel.call'] = found.original_path
      held { found.validate_path_params(options) }
      held { found.validate_request_parameter(query, {}, options) }
      body(env, found)
    end

    # The one place that says who may do what: each call is described with who it is for.
    # @param right [String, nil] nil for what is not described
    def allow(technician, right)
      return if right == ANYBODY
      # Whoever is not signed in is told no more than that.
      raise Wrong.new(401, 'sign in first') unless technician
      return if right.nil? || technician.may?(right)

      raise Wrong.new(403, "only a #{right} may do that: you are signed in as a #{technician.role}")
    end

    def options = @options ||= OpenAPIParser::SchemaValidator::Options.new(coerce_value: true)

    # @return [String] decoded
    def text!(raw, what)
      raise Wrong.new(400, "#{what} has a % that stands for nothing") if raw.b.match?(/%(?!\h\h)/)

      text = Rack::Utils.unescape_path(raw.b).force_encoding('UTF-8')
      raise Wrong.new(400, "#{what} is no text in UTF-8") unless text.valid_encoding? && !text.include?("\0")

      text
    end

    def query(raw)
      Rack::Utils.parse_nested_query(raw).tap { |given| texts!(given) }
                 .transform_keys { |name| raw.match?(/(?:\A|&)#{Regexp.escape(name)}(?:\[\]|%5B%5D)=/i) ? "#{name}[]" : name }
    rescue Wrong
      raise
    rescue StandardError # of many kinds, depending on what is wrong with it
      raise Wrong.new(400, 'what follows the ? cannot be read')
    end

    # Only described bodies are read here; a picture is read by whoever keeps it.
    def body(env, found)
      return unless found.operation_object.request_body&.content&.key?(JSON_TYPE)

      largest = found.operation_object.raw_schema.fetch(LARGEST_BODY, LARGEST)
      raw = env['rack.input']&.read(largest + 1).to_s
      raise Wrong.new(413, "a body has at most #{largest / 1024} KiB") if raw.bytesize > largest

      env['rack.input'] = StringIO.new(raw)
      value = parsed(raw, env)
      held { found.validate_request_body(JSON_TYPE, value, options) }
    end

    def parsed(raw, env)
      return {} if raw.empty?
      raise Wrong.new(415, 'a body is JSON') unless env['CONTENT_TYPE'].to_s.start_with?(JSON_TYPE)

      value = JSON.parse(raw.dup.force_encoding('UTF-8'), max_nesting: DEEPEST)
      raise Wrong.new(400, 'a JSON object is expected') unless value.is_a?(Hash)

      value.tap { texts!(value) }
    rescue JSON::ParserError, EncodingError
      raise Wrong.new(400, 'the body is no JSON')
    end

    def texts!(value)
      case value
      when Hash then value.each { |pair| texts!(pair) }
      when Array then value.each { |one| texts!(one) }
      when String
        raise Wrong.new(400, 'a text is not in UTF-8, or has a zero in it') if !value.valid_encoding? || value.include?("\0")
      end
    end

    # What the description says, in a sentence that repeats nothing of what was sent.
    def held
      yield
    rescue OpenAPIParser::OpenAPIError => e
      where = e.message[%r{/(?:properties|parameters)/([^/\s]+)(?:/schema)?(?:/items)?\s}, 1]
      raise Wrong.new(400, words(e), where)
    end

    WORDS = {
      'ValidateError' => 'it has another type', 'NotNullError' => 'it is null', 'NotExistRequiredKey' => 'something is missing',
      'NotEnumInclude' => 'it is none of the known ones', 'LessThanMinimum' => 'it is too small', 'MoreThanMaximum' => 'it is too large',
      'MoreThanMaxLength' => 'it is too long', 'LessThanMinLength' => 'it is too short', 'MoreThanMaxItems' => 'there are too many',
      'LessThanMinItems' => 'there are too few', 'InvalidPattern' => 'it is not written like that',
      'MoreThanMaxProperties' => 'there are too many'
    }.freeze
    private_constant :WORDS

    def words(error)
      name = error.class.name.demodulize
      missing = error.message[/missing required parameters: (.*)/, 1]
      missing ? "#{missing} is missing" : WORDS.fetch(name, 'it is not as described')
    end

    # What stands in front of the API answers in its own ways.
    def in_one_shape(answer)
      status, headers, body = answer
      return answer if status < 400 || headers['content-type'].to_s.start_with?(JSON_TYPE)

      body.close if body.respond_to?(:close)
      said(status, status == 403 ? 'this page is out of date: load it again' : 'this was refused')
    end

    NAMES = { 401 => 'SignIn', 403 => 'Refused', 404 => 'NotFound' }.freeze
    private_constant :NAMES

    def said(status, message, where = nil)
      [status, { 'content-type' => JSON_TYPE, 'cache-control' => 'no-store' },
       [JSON.generate({ error: NAMES.fetch(status, 'Invalid'), message: where ? "#{where}: #{message}" : message, where: }.compact)]]
    end
  end
end
