# frozen_string_literal: true

require 'securerandom'

module Api
  # What every answer says to the browser: nothing from elsewhere, no frames.
  class Headers
    NONCE = 'evrel.nonce'
    POLICY = 'content-security-policy'

    def initialize(app)
      @app = app
    end

    def call(env)
      nonce = env[NONCE] = SecureRandom.base64(18)
      status, headers, body = @app.call(env)
      # What an answer says itself of its contents is narrower, and stays.
      said = headers.any? { |name, _| name.casecmp?(POLICY) } ? security(nonce).except(POLICY) : security(nonce)
      [status, headers.merge(said), body]
    end

    private

    # The nonce is for the style sheets that the widgets add while they run.
    def security(nonce)
      { POLICY =>
          "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-#{nonce}'; img-src 'self' data:; " \
          "font-src 'self'; connect-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
        'x-content-type-options' => 'nosniff', 'referrer-policy' => 'no-referrer', 'x-frame-options' => 'DENY' }
    end
  end
end
