# frozen_string_literal: true

require 'rack/protection'
require 'rack/session'

module Api
  # Everything in front of the API, in order: hosts, headers, session, who asks, what
  # the API is described to take, the token against cross-site requests; then the
  # live stream, the API and the pages.
  module Stack
    LIVE = '/live'

    module_function

    # @return [#call] the Rack application
    def build
      live = Live.new
      Rack::Builder.app do
        use Rack::Protection::HostAuthorization, permitted_hosts: Config.hosts, logging: false
        use Headers
        use Rack::Session::Cookie, key: 'evrel', secret: Config.secret, same_site: :strict, httponly: true
        map '/api' do
          use Signed
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
  end
end
