# frozen_string_literal: true

module Api
  # Who asks: looked up once for all that stands behind it.
  class Signed
    KEY = 'evrel.sign_in'
    # What an open page says by itself, with nobody there: that it is open.
    BY_ITSELF = %r{\A/dockets/\d+/people\z}

    def initialize(app)
      @app = app
    end

    def call(env)
      secret = env['rack.session']['sign_in']
      found = env[KEY] = secret && SignIn.of(secret)
      found.active! if found && by_somebody?(env)
      # A browser that came by TLS sends the cookie by nothing else.
      env['rack.session.options'][:secure] = true if Rack::Request.new(env).ssl?
      @app.call(env)
    end

    private

    # What only reads may be asked by the page itself as well.
    def by_somebody?(env) = !AllOrNothing::READING.include?(env['REQUEST_METHOD']) && !env['PATH_INFO'].match?(BY_ITSELF)
  end
end
