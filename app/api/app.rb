# frozen_string_literal: true

require 'rack/protection'
require 'sinatra/base'

module Api
  # The JSON API under /api, described by docs/openapi.yaml. Thin: it reads the
  # request, asks a station or a model, and puts the answer into JSON.
  class App < Sinatra::Base
    set :show_exceptions, false
    set :raise_errors, false
    set :dump_errors, false # Api::Log does
    set :static, false
    set :host_authorization, { permitted_hosts: [] } # Api::Stack checks hosts for everything
    disable :sessions

    STATUS = { Gate::Closed => 401, Evrel::NotFound => 404, Evrel::Refused => 409, Evrel::DoesNotFit => 409 }.freeze

    before do
      content_type :json
      headers 'Cache-Control' => 'no-store'
    end

    error(Gate::Slowed) do |error|
      headers 'Retry-After' => SignInFailure::PERIOD.to_s
      error_body(error, 429)
    end
    error(Evrel::Error) { |error| error_body(error, STATUS.find { |kind, _| error.is_a?(kind) }&.last || 422) }
    error(ActiveRecord::RecordNotFound) { halt_with(404, 'NotFound', 'there is nothing under this address') }
    # The keys of the database hold what two do at the same moment.
    error(ActiveRecord::RecordNotUnique) { halt_with(409, 'Refused', 'somebody else was a moment faster: look again') }
    error(ActiveRecord::RecordInvalid) { |error| halt_with(422, 'Invalid', error.message.sub('Validation failed: ', '')) }
    not_found { halt_with(404, 'NotFound', 'there is nothing under this address') unless response.body.any? }
    error { halt_with(500, 'Fault', 'something went wrong in Evrel itself; its log says more') }

    register Session
    register People
    register Dockets
    register Writes
    register Starting
    register Reports
    register Layouts
    register Shelves
    register Images
    register Inside
    register Keeping
    register Finding
    register Drives
    register Takings
    register Runs
    register Bench
    register Computers
    register Readiness

    helpers do
      def signed_in = request.env[Signed::KEY]
      def technician = signed_in&.technician
      def session = request.session

      def answer(value) = JSON.generate(value)

      # @raise halts with 400 where the body is no JSON object
      def body_params = @body_params ||= read_body

      def read_body
        text = request.body.read(Described::LARGEST_OF_ALL).to_s
        return {} if text.empty?

        value = JSON.parse(text)
        value.is_a?(Hash) ? value : halt_with(400, 'Invalid', 'a JSON object is expected')
      rescue JSON::ParserError
        halt_with(400, 'Invalid', 'the body is no JSON')
      end

      def halt_with(code, error, message)
        halt code, { 'content-type' => 'application/json' }, answer({ error:, message: })
      end

      def error_body(error, code)
        status code
        answer(error.to_h)
      end
    end
  end
end
