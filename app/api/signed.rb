# frozen_string_literal: true

module Api
  # Who asks: looked up once for all that stands behind it.
  class Signed
    KEY = 'evrel.sign_in'

    def initialize(app)
      @app = app
    end

    def call(env)
      secret = env['rack.session']['sign_in']
      found = env[KEY] = secret && SignIn.of(secret)
      # What only reads may be asked by the page itself, with nobody there.
      found.active! if found && !AllOrNothing::READING.include?(env['REQUEST_METHOD'])
      # A browser that came by TLS sends the cookie by nothing else.
      env['rack.session.options'][:secure] = true if Rack::Request.new(env).ssl?
      @app.call(env)
    end
  end
end
