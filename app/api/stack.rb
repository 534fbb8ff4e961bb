# frozen_string_literal: true

require 'rack/attack'
require 'rack/protection'
require 'rack/session'

module Api
  # Everything in front of the API, in order: hosts, headers, session, token
  # against cross-site requests, throttling; then the live stream, the API and
  # the pages.
  module Stack
    TRIES = 5      # sign-in attempts
    PERIOD = 60    # seconds
    LIVE = '/live'

    module_function

    # @return [#call] the Rack application
    def build
      throttle
      live = Live.new
      Rack::Builder.app do
        use Rack::Protection::HostAuthorization, permitted_hosts: Config.hosts, logging: false
        use Headers
        use Rack::Session::Cookie, key: 'evrel', secret: Config.secret, same_site: :strict, httponly: true
        use Rack::Attack
        map '/api' do
          map(LIVE) { run live }
          use Log
          use Described
          use Rack::Protection::AuthenticityToken
          use Rack::Protection::JsonCsrf
          use AllOrNothing
          run App
        end
        run Pages.new
      end
    end

    def throttle
      Rack::Attack.cache.store = ActiveSupport::Cache::MemoryStore.new
      Rack::Attack.throttle('sign-in', limit: TRIES, period: PERIOD) do |request|
        request.ip if request.post? && request.path == '/api/session'
      end
      Rack::Attack.throttled_responder = lambda do |_request|
        body = { error: 'SignIn', message: "too many attempts: wait #{PERIOD} s" }
        [429, { 'content-type' => 'application/json', 'retry-after' => PERIOD.to_s }, [JSON.generate(body)]]
      end
    end
  end
end
